from django.apps import AppConfig


class PurchasingConfig(AppConfig):
    name = "server.purchasing"
    default_auto_field = "django.db.models.BigAutoField"
