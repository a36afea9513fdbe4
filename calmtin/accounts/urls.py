from django.contrib.auth import views as auth
from django.urls import path, reverse_lazy

from calmtin.accounts import views

app_name = "accounts"
urlpatterns = [
    path("sign-in/", views.SignIn.as_view(), name="sign_in"),
    path("sign-out/", auth.LogoutView.as_view(), name="sign_out"),
    path("welcome/", views.first_account, name="first_account"),
    path("demo/", views.open_demo, name="open_demo"),
    path("settings/", views.bench_settings, name="settings"),
    path(
        "settings/password/",
        auth.PasswordChangeView.as_view(
            template_name="accounts/password.html", success_url=reverse_lazy("accounts:settings")
        ),
        name="password",
    ),
]
