"""The sentence at the top of a page has two lines; of a longer one its beginning is shown."""

import re
import unittest
from types import SimpleNamespace

from scutcher.desk.widgets.finding import LINES, Finding
from tests.desk.driving import application, settle

PIECES = [
    ("Farthest from the rest: ", ()), ("43 pixels & more", (1, 2)), (", x 70–88, y 10–22; 15 SD out on ", ()),
    ("component 1", (3,)), (" at 1729.56 nm and 2310.06 nm; 18 more past the limit, <b>not</b> bold.", ()),
]  # fmt: skip


class TwoLines(unittest.TestCase):
    def test_what_does_not_fit_ends_in_dots_and_comes_back_with_room(self):
        application()
        picked = []
        finding = Finding(SimpleNamespace(selection=SimpleNamespace(pick=picked.append)))
        self.addCleanup(finding.deleteLater)
        finding.show_pieces(PIECES)
        finding.show()
        whole = "".join(text for text, _ in PIECES)
        before = ""
        for width in (120, 260, 420, 900):
            finding.resize(width, finding.height())
            settle()
            shown = re.sub(r"<[^>]*>", "", finding.text()).replace("&amp;", "&")
            shown = shown.replace("&lt;", "<").replace("&gt;", ">")
            beginning = shown.removesuffix(" …")
            self.assertTrue(whole.startswith(beginning))
            self.assertGreater(len(beginning), len(before))
            self.assertEqual(shown.endswith(" …"), beginning != whole)
            room = LINES * finding.fontMetrics().lineSpacing() + 2
            self.assertLessEqual(finding.heightForWidth(width) if shown else 0, room)
            before = beginning
        self.assertEqual(before, whole)
        self.assertEqual(finding.sentence, whole)
        finding.linkActivated.emit("1")
        self.assertEqual(picked, [(1, 2)])
        larger = finding.font()
        larger.setPixelSize(3 * finding.fontInfo().pixelSize())
        finding.setFont(larger)
        settle()
        self.assertTrue(finding.text().endswith(" …"))
        self.assertLess(finding._set.height, 2.5 * finding.fontMetrics().lineSpacing())


if __name__ == "__main__":
    unittest.main()
