"""Enter in a box recalculates, saves that box or does nothing: it never commits, creates or prints.

A browser without scripts presses a form's first submit button, and nothing where that is disabled
(HTML, implicit submission). So the forms of all pages are read here, and what Enter would send is sent.
"""

from __future__ import annotations

from typing import Any
from urllib.parse import urljoin

from django.apps import apps
from django.db import transaction
from django.test import TestCase, override_settings
from django.urls import reverse

from calmtin.accounts.models import User
from calmtin.common.models import Sent
from calmtin.common.owned import Owned
from calmtin.pours.models import Pour
from tests.crawl import crawl, name_of
from tests.exchange.test_records import InAFolder
from tests.pages import PAGES
from tests.whole_bench import whole_bench

# Where Enter saves what its boxes say, and nothing else: by the view, the tables that may change.
SAVES = {
    "accounts:household": {"accounts.user", "accounts.bench"},  # an account is made as usual
    "accounts:maker_password": {"accounts.user"},
    "accounts:password": {"accounts.user"},
    "accounts:settings": {"accounts.bench"},
    "accounts:first_bench": {"accounts.bench"},
    "formulas:details": {"formulas.formula"},
    "pantry:material": {"pantry.override"},
    "packing:hours": {"pours.pour"},
    "pours:route": {"pours.route"},
}
EDITS = {"formulas.version", "formulas.line", "formulas.step", "formulas.formula"}
SAVES |= {
    f"formulas:{name}": EDITS for name in ("line_percent", "line_add", "line_strength", "batch", "process")
}
MOVEMENTS = {"pantry.movement", "pantry.withdrawal"}
SAVES |= {"pours:weigh": {"pours.weighin", *MOVEMENTS}, "pours:reading": {"pours.potreading"}}
SAVES |= {"pours:weigh_finish": {"pours.finishweighin", *MOVEMENTS}}
TYPED = {"date": "2026-06-01", "number": "3", "password": "oar-and-tallow-8", "file": None}
BLOCKING = ("text", "search", "tel", "url", "email", "password", "date", "number", "time")


@override_settings(DEMO=False)
class EnterKey(InAFolder, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.user = whole_bench("stroke")
        User.objects.filter(pk=self.user.pk).update(is_staff=True)
        User.objects.create_user("bow", password="oar-and-tallow-7")
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def book(self) -> dict[str, list[Any]]:
        """Return all rows of all makers, by table."""
        models = [m for m in apps.get_models() if issubclass(m, Owned) and m is not Sent] + [User]
        return {
            model._meta.label_lower: sorted(
                model._base_manager.exclude(pk=None).values_list(
                    *(
                        f.attname
                        for f in model._meta.concrete_fields
                        if f.name not in ("touched_at", "last_login", "log_state")
                    )
                ),
                key=repr,
            )
            for model in models
        }

    def unlinked(self) -> list[str]:
        """Return pages that a bench of this state links to in no place that is walked."""
        pour = Pour.objects.get(owner=self.user, code="OH-01")
        of_pour = [reverse(f"checks:{name}", args=[pour.pk]) for name in ("check", "press")]
        slug = self.user.ownmaterial_set.get(name="Reed bed wax").slug
        maker = User.objects.get(username="bow")
        return [
            *of_pour,
            f"{reverse('checks:compare')}?pour={pour.pk}&pour={pour.pk + 1}",
            reverse("pantry:material_correct", args=[slug]),
            reverse("accounts:first_bench"),
            reverse("accounts:household"),
            reverse("accounts:maker_password", args=[maker.pk]),
        ]

    def test_enter_never_commits_on_any_page(self) -> None:
        walked, sent, committed = set(), 0, []
        before = self.book()
        for address, page in crawl(self.client, "/", *self.unlinked()):
            walked.add(name_of(address))
            for form in page.iter("form"):
                sending = what_enter_sends(page, form, address)
                if sending is None:
                    continue
                to, data = sending
                point = transaction.savepoint()
                self.client.post(to, data)
                after = self.book()
                transaction.savepoint_rollback(point)
                self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
                changed = {name for name in after if after[name] != before[name]}
                sent += 1
                if not changed <= SAVES.get(name_of(to), set()):
                    committed.append(f"{name_of(address)} → {name_of(to)}: {sorted(changed)}")
        self.maxDiff = None
        self.assertEqual(sorted(set(committed)), [])
        self.assertEqual(PAGES - walked - {"away"}, set())
        self.assertGreater(sent, 40)


def what_enter_sends(page: Any, form: Any, address: str) -> tuple[str, dict[str, Any]] | None:
    """Return where Enter in a box of a form posts what; None where it posts nothing."""
    controls = [c for c in page.iter("input", "select", "textarea", "button") if owner(c, page) is form]
    boxes = [c for c in controls if c.tag == "input" and c.get("type", "text") in BLOCKING]
    buttons = [c for c in controls if c.tag == "button" and c.get("type", "submit") == "submit"]
    if not boxes or (not buttons and len(boxes) > 1):
        return None
    default = buttons[0] if buttons else form
    if default.get("disabled") is not None or method(default, form) != "post":
        return None
    data: dict[str, Any] = {}
    for control in controls:
        name = control.get("name")
        if not name or control.get("disabled") is not None or control.tag == "button":
            continue
        value = value_of(control)
        if value is not None:
            data.setdefault(name, []).append(value)
    if default.get("name"):
        data[default.get("name")] = default.get("value", "")
    return urljoin(address, default.get("formaction") or form.get("action") or address), data


def owner(control: Any, page: Any) -> Any:
    """Return the form that a control belongs to."""
    named = control.get("form")
    return page.get_element_by_id(named, None) if named else next(control.iterancestors("form"), None)


def method(default: Any, form: Any) -> str:
    return str(default.get("formmethod") or form.get("method") or "get").lower()


def value_of(control: Any) -> str | None:
    """Return what a control sends once somebody has typed into every empty box."""
    if control.tag == "textarea":
        return control.text or "20 g beeswax"
    if control.tag == "select":
        options = list(control.iter("option"))
        chosen = [o for o in options if o.get("selected") is not None] or options[:1]
        filled = [o for o in options if o.get("value")]
        value = chosen[0].get("value", "") if chosen else ""
        return value or (filled[0].get("value") if filled else "")
    kind = control.get("type", "text")
    if kind in ("checkbox", "radio"):
        return control.get("value", "on") if control.get("checked") is not None else None
    if kind == "hidden":
        return control.get("value", "")
    if kind == "text" and not control.get("value"):
        return "3" if control.get("inputmode") == "decimal" else "calendula"
    return control.get("value") or TYPED.get(kind, "3")
