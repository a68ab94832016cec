"""What nobody uses is not read; who uses it finds all of it."""

import subprocess
import sys
import unittest

PROGRAM = """
import sys
import scutcher.core.arrays, scipy.special
assert not [name for name in sys.modules if name.startswith(("numpy.f2py.", "numpy.testing._"))], "read"
import numpy, numpy.testing, numpy.f2py
numpy.testing.assert_allclose(scipy.special.gamma(5.0), 24.0)
assert "numpy.testing._private" in sys.modules and callable(numpy.f2py.get_include)
from scutcher.core.late_modules import read_when_used
read_when_used("numpy.f2py", "numpy.linalg", "numpy.nothing_of_that_name")
assert numpy.linalg.norm([3.0, 4.0]) == 5.0 and callable(numpy.f2py.get_include)
assert "numpy.nothing_of_that_name" not in sys.modules
"""


UNDOCUMENTED = """
import sys
from scutcher.core.late_modules import PARSER, without_documentation
without_documentation()
import numpy, scipy.linalg, scipy.special, scipy.optimize, scipy.interpolate, scipy.stats
import scipy._lib._util as asking
assert PARSER in sys.modules and "FunctionDoc" in vars(asking)
assert abs(scipy.special.gammainc(2.0, 3.0) - (1 - 4 * numpy.exp(-3.0))) < 1e-12
values = scipy.linalg.eigh(numpy.diag([3.0, 1.0, 2.0]))[0]
numpy.testing.assert_allclose(values, [1.0, 2.0, 3.0])
assert abs(scipy.stats.norm.cdf(1.96) - 0.975) < 1e-3
assert not scipy.special.gammainc.__doc__ or "Array API" not in scipy.special.gammainc.__doc__
from scipy._lib._docscrape import ClassDoc, NumpyDocString  # what is more than that is there, too
assert issubclass(ClassDoc, NumpyDocString)
assert NumpyDocString("Summary\\n\\nNotes\\n-----\\nSome.\\n")["Notes"] == ["Some."]
"""

LIBRARY = """
import scutcher as sc
sc.read, sc.fit, sc.example
import scipy.linalg
assert "eigenvalue" in scipy.linalg.eigh.__doc__, "whoever works in a notebook finds it documented"
"""

COMMAND = """
import sys
from scutcher.cli import main
assert main(["treatments"]) == 0
import scipy.linalg
assert not scipy.linalg.eigh.__doc__
"""


class WithoutDocumentation(unittest.TestCase):
    def test_numbers_are_the_same_and_the_rest_is_there(self):
        self.assertEqual(ended(UNDOCUMENTED), (0, ""))

    def test_for_programs_and_not_for_notebooks(self):
        self.assertEqual(ended(LIBRARY), (0, ""))
        self.assertEqual(ended(COMMAND), (0, ""))


def ended(program):
    """How a program ends in a process of its own, and its complaints."""
    run = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True)
    return run.returncode, run.stderr


class ReadWhenUsed(unittest.TestCase):
    def test_in_a_process_of_its_own(self):
        self.assertEqual(ended(PROGRAM), (0, ""))


if __name__ == "__main__":
    unittest.main()
