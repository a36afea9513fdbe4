from django.apps import AppConfig


class PantryConfig(AppConfig):
    name = "calmtin.pantry"
