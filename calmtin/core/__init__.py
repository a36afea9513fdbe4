"""The craft's rules and sums: floats, arrays and frozen dataclasses in and out.

No Django, no clock, no database in here; import-linter holds that.
"""
