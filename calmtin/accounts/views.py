"""Signing in, the first account, the bench's settings, and the household."""

from typing import Any, cast

from django.conf import settings
from django.contrib import messages
from django.contrib.auth import login
from django.contrib.auth import views as auth
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse, reverse_lazy
from django.utils.decorators import method_decorator
from django.utils.translation import gettext
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from calmtin import __version__
from calmtin.accounts import services
from calmtin.accounts.forms import (
    BenchForm,
    FirstAccountForm,
    FirstBenchForm,
    MakerForm,
    NewPasswordForm,
    OwnPasswordForm,
    ScaleForm,
)
from calmtin.accounts.models import FineScale, User
from calmtin.accounts.pairing import maker_of_link, tokens
from calmtin.accounts.queries import (
    bench_of,
    keeps_household,
    likely_settings,
    makers,
    nobody_yet,
    settings_lists,
    settings_notes,
)
from calmtin.accounts.sessions import end_sessions, signed_in
from calmtin.common.fields import refuse
from calmtin.common.phone import WITHOUT_HTTPS, is_on_the_phone
from calmtin.core.errors import CalmTinError
from calmtin.core.messages import said

BACKEND = "django.contrib.auth.backends.ModelBackend"


@method_decorator(login_not_required, name="dispatch")
class SignIn(auth.LoginView):
    """Sign in; a new installation goes to its first account instead."""

    template_name = "accounts/sign_in.html"
    redirect_authenticated_user = True

    def dispatch(self, request: HttpRequest, *args: object, **kwargs: object) -> HttpResponseBase:
        """Send the very first visitor to the first account."""
        if not settings.DEMO and nobody_yet():
            return redirect("accounts:first_account")
        return super().dispatch(request, *args, **kwargs)


class OwnPassword(auth.PasswordChangeView):
    """Change one's own password; the old one is required, and failed attempts count."""

    form_class = OwnPasswordForm
    template_name = "accounts/password.html"
    success_url = reverse_lazy("accounts:settings")

    def get_form_kwargs(self) -> dict[str, Any]:
        """Let the form count tries by the request's client."""
        return {**super().get_form_kwargs(), "request": self.request}


@login_not_required
@require_http_methods(["GET", "HEAD", "POST"])
def first_account(request: HttpRequest) -> HttpResponse:
    """Make the first account of a new installation and sign in to it."""
    if not nobody_yet():
        return redirect("accounts:sign_in")
    if is_on_the_phone(request):  # whoever is on the network must not become the keeper of the house
        return render(request, "accounts/first_at_computer.html", status=403)
    form = FirstAccountForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        try:
            user = services.open_first_account(
                form.cleaned_data["username"], form.cleaned_data["password1"]
            )
        except CalmTinError as refused:
            # Somebody else was quicker by a breath.
            messages.error(request, str(refused))
            return redirect("accounts:sign_in")
        login(request, user, backend=BACKEND)
        return redirect("accounts:first_bench")
    return render(request, "accounts/first_account.html", {"form": form})


@require_POST
def pair_new(request: HttpRequest) -> HttpResponse:
    """Show a link that signs a phone in, as a QR code."""
    link = ""
    if settings.PHONE_ADDRESS:
        user = cast(User, request.user)
        path = reverse("accounts:pair", args=[user.pk, tokens.make_token(user)])
        link = settings.PHONE_ADDRESS.rstrip("/") + path
    bench = bench_of(request.user)
    return _settings(request, BenchForm(instance=bench), ScaleForm(), link=link)


@login_not_required
@require_http_methods(["GET", "HEAD", "POST"])
def pair(request: HttpRequest, pk: int, token: str) -> HttpResponse:
    """Sign a phone in by a link; only the press does, so that looking ahead does not use the link up."""
    maker = maker_of_link(pk, token)
    if maker is not None and request.method == "POST":
        login(request, maker, backend=BACKEND)
        return redirect(settings.LOGIN_REDIRECT_URL)
    return render(request, "accounts/pair.html", {"maker": maker}, status=200 if maker else 410)


@login_not_required
@require_safe
def bench_certificate(request: HttpRequest) -> HttpResponse:  # noqa: ARG001
    """Return the certificate that a phone installs to trust this bench; it holds no secret and no name."""
    file = settings.PHONE_FOLDER / "bench.crt"
    if not file.exists():
        raise Http404
    return HttpResponse(
        file.read_bytes(),
        content_type="application/x-x509-ca-cert",
        headers={"Content-Disposition": 'attachment; filename="calm-tin.crt"'},
    )


@require_http_methods(["GET", "HEAD", "POST"])
def first_bench(request: HttpRequest) -> HttpResponse:
    """Ask once about scale, degrees and room; likely answers are in, so that one press is enough."""
    bench = bench_of(request.user)
    likely = {} if bench.is_set_up else likely_settings(request.headers.get("Accept-Language", ""))
    for name, value in likely.items():
        setattr(bench, name, value)
    form = FirstBenchForm(request.POST or None, instance=bench)
    if request.method == "POST" and form.is_valid():
        form.instance.is_set_up = True
        form.save()
        return redirect(settings.LOGIN_REDIRECT_URL)
    return render(request, "accounts/first_bench.html", {"form": form})


@login_not_required
@require_POST
def open_demo(request: HttpRequest) -> HttpResponse:
    """Sign in to the demo bench; outside the demo there is no such page."""
    user = User.objects.filter(username=services.DEMO_USER).first() if settings.DEMO else None
    if user is None:
        raise Http404
    login(request, user, backend=BACKEND)
    return redirect(settings.LOGIN_REDIRECT_URL)


@require_http_methods(["GET", "HEAD", "POST"])
def bench_settings(request: HttpRequest) -> HttpResponse:
    """Show and save the bench's temperatures, scale and units."""
    form = BenchForm(request.POST or None, instance=bench_of(request.user))
    if request.method == "POST" and form.is_valid():
        form.save()
        messages.success(request, gettext("Saved. Predictions now use these temperatures."))
        return redirect("accounts:settings")
    return _settings(request, form, ScaleForm())


def _starts_with() -> str:
    """Return the command that serves this bench: the script of a checkout, or the installed one."""
    name = "demo" if settings.DEMO else "serve"
    is_checkout = (settings.BASE_DIR.parent / "script" / name).exists()
    return f"script/{name}" if is_checkout else f"calmtin {name}"


def _settings(request: HttpRequest, form: BenchForm, scale_form: ScaleForm, link: str = "") -> HttpResponse:
    context = {
        "form": form,
        "scale_form": scale_form,
        "scales": FineScale.objects.of(request.user),
        "version": __version__,
        "lists": [source(request.user) for source in settings_lists],
        "notes": [note for source in settings_notes for note in source()],
        "keeps_household": keeps_household(request.user),
        "signed_in": signed_in(request.user, request.session.session_key),
        "phone": {
            "address": settings.PHONE_ADDRESS,
            "is_secure": settings.PHONE_ADDRESS.startswith("https:"),
            "command": f"{_starts_with()} --phone",
            "without_https": gettext(WITHOUT_HTTPS),
            "link": link,
        },
    }
    return render(request, "accounts/settings.html", context)


@require_POST
def scale_add(request: HttpRequest) -> HttpResponse:
    """Keep another scale."""
    form = ScaleForm(request.POST)
    if form.is_valid():
        try:
            services.add_scale(cast(User, request.user), **form.cleaned_data)
            messages.success(request, gettext("Saved. Plans will use it for small amounts."))
            return redirect(f"{reverse('accounts:settings')}#scales")
        except CalmTinError as refused:
            refuse(form, refused)
    return _settings(request, BenchForm(instance=bench_of(request.user)), form)


@require_POST
def scale_remove(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a scale off the bench."""
    services.remove_scale(cast(User, request.user), FineScale.objects.own_or_404(request.user, pk=pk))
    return redirect(f"{reverse('accounts:settings')}#scales")


@require_POST
def session_end(request: HttpRequest) -> HttpResponse:
    """End one of the maker's other sessions, or all of them."""
    ended = end_sessions(request.user, name=request.POST.get("name", ""), but=request.session.session_key)
    words = (
        gettext("The device is signed out.")
        if ended == 1
        else said("{ended} devices are signed out.", ended=ended)
    )
    messages.success(request, words if ended else gettext("No other device is signed in."))
    return redirect(f"{reverse('accounts:settings')}#sessions")


@require_http_methods(["GET", "HEAD", "POST"])
def household(request: HttpRequest) -> HttpResponse:
    """Show the makers of this installation to who keeps it; POST adds one."""
    _refuse_others(request)
    form = MakerForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        try:
            made = services.add_maker(
                cast(User, request.user), form.cleaned_data["username"], form.cleaned_data["password1"]
            )
            messages.success(request, said("{username} now has their own bench.", username=made.username))
            return redirect("accounts:household")
        except CalmTinError as refused:
            form.add_error(refused.field or None, str(refused))
    return render(request, "accounts/household.html", {"form": form, "makers": makers()})


@require_http_methods(["GET", "HEAD", "POST"])
def maker_password(request: HttpRequest, pk: int) -> HttpResponse:
    """Give a maker of the household a new password."""
    _refuse_others(request)
    maker = get_object_or_404(makers(), pk=pk)
    form = NewPasswordForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        try:
            services.give_password(cast(User, request.user), maker, form.cleaned_data["password1"])
            messages.success(
                request, said("{username} can now sign in with the new password.", username=maker.username)
            )
            return redirect("accounts:household")
        except CalmTinError as refused:
            form.add_error("password1", str(refused))
    return render(request, "accounts/maker_password.html", {"form": form, "maker": maker})


@require_POST
def maker_active(request: HttpRequest, pk: int) -> HttpResponse:
    """Let a maker in or keep them out."""
    _refuse_others(request)
    maker = get_object_or_404(makers(), pk=pk)
    try:
        services.set_active(cast(User, request.user), maker, active="in" in request.POST)
    except CalmTinError as refused:
        messages.error(request, str(refused))
    return redirect("accounts:household")


def _refuse_others(request: HttpRequest) -> None:
    if not keeps_household(request.user):
        raise Http404
