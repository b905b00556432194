from django.apps import AppConfig


class HandChecksConfig(AppConfig):
    name = "server.handchecks"
    default_auto_field = "django.db.models.BigAutoField"
