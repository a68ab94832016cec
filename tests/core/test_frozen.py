"""Frozen classes that are worked out on first use are what `dataclasses.dataclass` makes."""

import dataclasses
import inspect
import sys
import threading
import unittest

from scutcher.core.frozen import frozen


def kinds():
    """Fresh classes that nobody has used: one, one made from it, and both as the library makes them."""

    @frozen
    class Point:
        """A point."""

        x: float
        y: float = 2.0
        names: list = dataclasses.field(default_factory=list, compare=False)

    @frozen
    class Solid(Point):
        """A point in space."""

        z: float = 3.0

        def __post_init__(self):
            if self.z < 0:
                raise ValueError("below")

    return Point, Solid


class Frozen(unittest.TestCase):
    def test_objects_are_as_the_library_makes_them(self):
        Point = kinds()[0]
        given = Point(1.0, names=["a"])
        self.assertEqual((given.x, given.y, given.names), (1.0, 2.0, ["a"]))
        self.assertEqual(given, Point(1.0, 2.0, ["b"]))
        self.assertEqual(hash(given), hash(Point(1.0)))
        self.assertNotEqual(given, Point(1.5))
        self.assertTrue(repr(given).endswith("Point(x=1.0, y=2.0, names=['a'])"))
        self.assertEqual(dataclasses.replace(given, y=5.0).y, 5.0)
        with self.assertRaises(dataclasses.FrozenInstanceError):
            given.x = 2.0
        with self.assertRaises(dataclasses.FrozenInstanceError):
            del given.x
        with self.assertRaisesRegex(TypeError, "missing 1 required positional argument: 'x'"):
            Point()

    def test_a_class_made_from_one_that_nobody_used(self):
        Point, Solid = kinds()
        solid = Solid(1.0, z=4.0)
        self.assertEqual([field.name for field in dataclasses.fields(Solid)], ["x", "y", "names", "z"])
        self.assertEqual((solid.x, solid.y, solid.z), (1.0, 2.0, 4.0))
        self.assertNotEqual(solid, Point(1.0))
        with self.assertRaisesRegex(ValueError, "below"):
            Solid(1.0, z=-1.0)

    def test_fields_can_be_asked_for_before_the_first_object(self):
        for ask in (lambda kind: [f.name for f in dataclasses.fields(kind)], lambda k: [*k.__match_args__]):
            Point, Solid = kinds()
            with self.subTest(ask=ask):
                self.assertTrue(dataclasses.is_dataclass(Solid))
                self.assertEqual(ask(Solid), ["x", "y", "names", "z"])
                self.assertEqual(ask(Point), ["x", "y", "names"])

    def test_without_eq_an_object_equals_itself_only(self):
        @frozen(eq=False)
        class Array:
            values: tuple

        one, other = Array((1,)), Array((1,))
        self.assertNotEqual(one, other)
        self.assertEqual(len({one, other, one}), 2)

    def test_an_own_init_stays(self):
        @frozen
        class Own:
            x: int

            def __init__(self, text):
                object.__setattr__(self, "x", int(text))

        own = Own("7")
        self.assertEqual(own.x, 7)
        with self.assertRaises(dataclasses.FrozenInstanceError):
            own.x = 8
        self.assertEqual(dataclasses.astuple(Own("7")), (7,))

    def test_fields_that_are_not_given_and_what_a_class_says_itself(self):
        @frozen
        class Search:
            name: str
            seen: list = dataclasses.field(init=False, default_factory=list, compare=False)
            tried: int = dataclasses.field(init=False, default=0, repr=False)
            wide: float = 1.0

            def __eq__(self, other):
                return self.name.lower() == other.name.lower()

        one, other = Search("A", 2.0), Search(name="a")
        self.assertEqual((one.seen, one.tried, one.wide, other.wide), ([], 0, 2.0, 1.0))
        self.assertIsNot(one.seen, other.seen)
        self.assertEqual(one, other)
        self.assertEqual(hash(one), hash(Search("A", 2.0)))
        self.assertTrue(repr(one).endswith("Search(name='A', seen=[], wide=2.0)"), repr(one))
        self.assertEqual(str(inspect.signature(Search)), "(name: str, wide: float = 1.0) -> None")

    def test_a_class_without_fields_and_one_of_a_single_field(self):
        @frozen
        class Nothing:
            pass

        @frozen
        class One:
            value: float

        self.assertEqual((Nothing(), hash(Nothing())), (Nothing(), hash(Nothing())))
        self.assertNotEqual(Nothing(), One(1.0))
        nan = float("nan")
        self.assertEqual(One(nan), One(nan))  # the very same object, as in a tuple
        self.assertEqual(len({One(1.0), One(1), One(2.0)}), 2)

    def test_an_object_that_holds_itself_is_written_once(self):
        Point = kinds()[0]
        point = Point(1.0, names=[])
        point.names.append(point)
        self.assertIn("names=[...]", repr(point))

    def test_what_is_no_field_is_refused_too_but_by_a_plain_class_made_from_it(self):
        Point, Solid = kinds()
        for made in (Point(1.0), Solid(1.0)):
            with self.assertRaises(dataclasses.FrozenInstanceError):
                made.other = 1
            with self.assertRaises(dataclasses.FrozenInstanceError):
                del made.other

        class Named(Point):
            pass

        named = Named(1.0)
        named.word = "a"
        self.assertEqual(named.word, "a")
        with self.assertRaises(dataclasses.FrozenInstanceError):
            named.x = 2.0

    def test_threads_that_make_the_first_object_together(self):
        before = sys.getswitchinterval()
        sys.setswitchinterval(1e-6)
        self.addCleanup(sys.setswitchinterval, before)
        for _ in range(100):
            _, Solid = kinds()
            together, made, failed = threading.Barrier(4), [], []

            def make(Solid=Solid, together=together, made=made, failed=failed):
                together.wait()
                try:
                    for _ in range(20):
                        made.append(Solid(1.0))
                except Exception as error:
                    failed.append(error)

            threads = [threading.Thread(target=make) for _ in range(4)]
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
            self.assertEqual(failed, [])
            self.assertEqual(made, [Solid(1.0)] * 80)


if __name__ == "__main__":
    unittest.main()
