from django.apps import AppConfig


class AccountsConfig(AppConfig):
    name = "server.accounts"
    default_auto_field = "django.db.models.BigAutoField"
