from django.apps import AppConfig


class PartsConfig(AppConfig):
    name = "server.parts"
    default_auto_field = "django.db.models.BigAutoField"
