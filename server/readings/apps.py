from django.apps import AppConfig


class ReadingsConfig(AppConfig):
    name = "server.readings"
    default_auto_field = "django.db.models.BigAutoField"
