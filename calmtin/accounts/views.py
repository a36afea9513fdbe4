"""Signing in, the first account, and the bench's settings."""

from django.conf import settings
from django.contrib import messages
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.views import LoginView
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.decorators import method_decorator
from django.views.decorators.http import require_http_methods, require_POST

from calmtin.accounts.forms import BenchForm, FirstAccountForm
from calmtin.accounts.models import User
from calmtin.accounts.queries import bench_of, nobody_yet
from calmtin.accounts.services import DEMO_USER, open_first_account

BACKEND = "django.contrib.auth.backends.ModelBackend"


@method_decorator(login_not_required, name="dispatch")
class SignIn(LoginView):
    """Sign in; a new installation goes to its first account instead."""

    template_name = "accounts/sign_in.html"
    redirect_authenticated_user = True

    def dispatch(self, request: HttpRequest, *args: object, **kwargs: object) -> HttpResponse:
        """Send the very first visitor to the first account."""
        if not settings.DEMO and nobody_yet():
            return redirect("accounts:first_account")
        return super().dispatch(request, *args, **kwargs)


@login_not_required
@require_http_methods(["GET", "POST"])
def first_account(request: HttpRequest) -> HttpResponse:
    """Make the first account of a new installation and sign in to it."""
    if not nobody_yet():
        return redirect("accounts:sign_in")
    form = FirstAccountForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        user = open_first_account(form.cleaned_data["username"], form.cleaned_data["password1"])
        login(request, user, backend=BACKEND)
        return redirect("pours:today")
    return render(request, "accounts/first_account.html", {"form": form})


@login_not_required
@require_POST
def open_demo(request: HttpRequest) -> HttpResponse:
    """Sign in to the demo bench; outside the demo there is no such page."""
    user = User.objects.filter(username=DEMO_USER).first() if settings.DEMO else None
    if user is None:
        raise Http404
    login(request, user, backend=BACKEND)
    return redirect("pours:today")


@require_http_methods(["GET", "POST"])
def bench_settings(request: HttpRequest) -> HttpResponse:
    """Show and save the bench's temperatures, scale and units."""
    form = BenchForm(request.POST or None, instance=bench_of(request.user))
    if request.method == "POST" and form.is_valid():
        form.save()
        messages.success(request, "Saved. Every prediction uses these temperatures now.")
        return redirect("accounts:settings")
    return render(request, "accounts/settings.html", {"form": form})
