from django.apps import AppConfig


class PicturesConfig(AppConfig):
    name = "calmtin.pictures"
