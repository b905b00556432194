from django.apps import AppConfig


class InspectionsConfig(AppConfig):
    name = "server.inspections"
    default_auto_field = "django.db.models.BigAutoField"
