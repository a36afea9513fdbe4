from django.contrib.auth import views as auth
from django.urls import path

from calmtin.accounts import views

app_name = "accounts"
urlpatterns = [
    path("sign-in/", views.SignIn.as_view(), name="sign_in"),
    path("sign-out/", auth.LogoutView.as_view(), name="sign_out"),
    path("pair/", views.pair_new, name="pair_new"),
    path("pair/<row:pk>/<str:token>/", views.pair, name="pair"),
    path("bench.crt", views.bench_certificate, name="bench_certificate"),
    path("welcome/", views.first_account, name="first_account"),
    path("first/", views.first_bench, name="first_bench"),
    path("demo/", views.open_demo, name="open_demo"),
    path("settings/", views.bench_settings, name="settings"),
    path("settings/scales/", views.scale_add, name="scale_add"),
    path("settings/scales/<row:pk>/remove/", views.scale_remove, name="scale_remove"),
    path("settings/password/", views.OwnPassword.as_view(), name="password"),
    path("settings/sessions/end/", views.session_end, name="session_end"),
    path("household/", views.household, name="household"),
    path("household/<row:pk>/password/", views.maker_password, name="maker_password"),
    path("household/<row:pk>/active/", views.maker_active, name="maker_active"),
]
