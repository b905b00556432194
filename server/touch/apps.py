from django.apps import AppConfig


class TouchConfig(AppConfig):
    name = "server.touch"
    default_auto_field = "django.db.models.BigAutoField"
