from django.apps import AppConfig


class JobfilesConfig(AppConfig):
    name = "server.jobfiles"
    default_auto_field = "django.db.models.BigAutoField"
