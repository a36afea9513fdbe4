"""The deliberate faults of script/mutations still apply to the code as it stands."""

from __future__ import annotations

from unittest import TestCase

from bench.mutations import FAULTS, is_stale


class Faults(TestCase):
    def test_none_is_stale_or_there_twice(self) -> None:
        self.assertEqual([fault.promise for fault in FAULTS if is_stale(fault)], [])
        self.assertEqual(len({fault.promise for fault in FAULTS}), len(FAULTS))
