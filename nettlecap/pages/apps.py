from django.apps import AppConfig


class PagesConfig(AppConfig):
    name = "nettlecap.pages"
