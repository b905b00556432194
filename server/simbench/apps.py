from django.apps import AppConfig


class SimbenchConfig(AppConfig):
    name = "server.simbench"
    default_auto_field = "django.db.models.BigAutoField"
