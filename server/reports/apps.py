from django.apps import AppConfig


class ReportsConfig(AppConfig):
    name = "server.reports"
    default_auto_field = "django.db.models.BigAutoField"
