from django.apps import AppConfig


class ProvingConfig(AppConfig):
    name = "server.proving"
    default_auto_field = "django.db.models.BigAutoField"
