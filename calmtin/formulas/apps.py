from django.apps import AppConfig


class FormulasConfig(AppConfig):
    name = "calmtin.formulas"
