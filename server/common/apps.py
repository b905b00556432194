from django.apps import AppConfig


class CommonConfig(AppConfig):
    name = "server.common"
    default_auto_field = "django.db.models.BigAutoField"
