from django.apps import AppConfig


class CommonConfig(AppConfig):
    name = "calmtin.common"
