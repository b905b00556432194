from django.apps import AppConfig


class IncomingConfig(AppConfig):
    name = "server.incoming"
    default_auto_field = "django.db.models.BigAutoField"
