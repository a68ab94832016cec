"""The Samples page: signals as brought in, the roster, the variables."""
