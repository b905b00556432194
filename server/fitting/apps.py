from django.apps import AppConfig


class FittingConfig(AppConfig):
    name = "server.fitting"
    default_auto_field = "django.db.models.BigAutoField"
