"""For whom a product is, in words; the keys are those of the scent ceilings."""

from __future__ import annotations

from calmtin.core.messages import gettext_noop

AUDIENCE_WORDS: dict[str, str] = {
    "adult_body_leave_on": gettext_noop("adults, body"),
    "adult_face": gettext_noop("adults, face"),
    "adult_lips": gettext_noop("lips"),
    "short_term_local_use": gettext_noop("adults, small area for a few days"),
    "elderly_or_sensitive": gettext_noop("old or sensitive skin"),
    "pregnancy": gettext_noop("in pregnancy"),
    "child_6_to_15_years": gettext_noop("children of 6 to 15"),
    "child_2_to_6_years": gettext_noop("children of 2 to 6"),
    "child_3_to_24_months": gettext_noop("children of 3 to 24 months"),
    "infant_under_3_months": gettext_noop("babies under 3 months"),
}
