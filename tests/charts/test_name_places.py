"""Names on a plot: apart, inside, and none moved that has room where it is."""

import itertools
import unittest

import numpy as np

from scutcher.charts.name_places import LINES, meet, moves

AREA = (0.0, 0.0, 400.0, 300.0)


class Places(unittest.TestCase):
    def random(self, rng, count):
        corners = rng.uniform((0.0, 5.0, 10.0), (360.0, 285.0, 60.0), (count, 3)).tolist()
        return [(x, y, x + wide, y + 10.0) for x, y, wide in corners]

    def test_they_are_apart_and_inside_and_moved_as_little_as_can_be(self):
        rng = np.random.default_rng(3)
        for _ in range(200):
            boxes = self.random(rng, 12)
            gives_way = rng.random(12) < 0.3
            offs = moves(boxes, gives_way.tolist(), AREA)
            stand = {}
            for place in sorted(range(12), key=lambda place: gives_way[place]):
                box, off = boxes[place], offs[place]
                across = min(400.0 - box[2], 0.0)
                tried = [(across, 10.0 * line) for line in (LINES if not gives_way[place] else (0,))]
                free = [
                    (right, down)
                    for right, down in tried
                    if (gives_way[place] or (box[1] + down >= 0.0 and box[3] + down <= 300.0))
                    and not any(
                        meet((box[0] + right, box[1] + down, box[2] + right, box[3] + down), other)
                        for other in stand.values()
                    )
                ]
                if free:
                    np.testing.assert_allclose(off, free[0], atol=1e-9)
                else:
                    self.assertEqual(off, None if gives_way[place] else (across, 0.0))
                if off is not None and free:
                    stand[place] = box[0] + off[0], box[1] + off[1], box[2] + off[0], box[3] + off[1]
                elif off is not None:
                    stand[place] = box[0] + across, box[1], box[2] + across, box[3]
            kept = [box for place, box in stand.items() if offs[place] is not None]
            crossing = sum(meet(one, two) for one, two in itertools.combinations(kept, 2))
            self.assertLessEqual(crossing, 1)  # twelve names have nearly always room

    def test_air(self):
        near = [(10.0, 50.0, 40.0, 60.0), (45.0, 50.0, 70.0, 60.0)]
        self.assertEqual(moves(near, [False, True], AREA, air=4.0), [(0.0, 0.0), None])
        self.assertEqual(moves(near, [False, False], AREA, air=4.0), [(0.0, 0.0), (0.0, 0.0)])
        self.assertEqual(moves([(1.0, 50.0, 9.0, 60.0)], [False], AREA, air=4.0), [(3.0, 0.0)])

    def test_where_there_is_no_room_at_all_they_stay(self):
        low = (0.0, 0.0, 400.0, 12.0)
        same = [(10.0, 1.0, 40.0, 11.0)] * 2
        self.assertEqual(moves(same, [False, False], low), [(0.0, 0.0), (0.0, 0.0)])


if __name__ == "__main__":
    unittest.main()
