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


class ReadWhenUsed(unittest.TestCase):
    def test_in_a_process_of_its_own(self):
        run = subprocess.run([sys.executable, "-c", PROGRAM], capture_output=True, text=True)
        self.assertEqual((run.returncode, run.stderr), (0, ""))


if __name__ == "__main__":
    unittest.main()
