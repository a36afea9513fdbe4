from django.apps import AppConfig


class ExchangeConfig(AppConfig):
    name = "calmtin.exchange"
