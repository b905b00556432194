from django.apps import AppConfig


class UpkeepConfig(AppConfig):
    name = "server.upkeep"
    default_auto_field = "django.db.models.BigAutoField"
