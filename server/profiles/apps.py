from django.apps import AppConfig


class ProfilesConfig(AppConfig):
    name = "server.profiles"
    default_auto_field = "django.db.models.BigAutoField"
