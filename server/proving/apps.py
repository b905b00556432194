from django.apps import AppConfig


class ProvingConfig(AppConfig):
    name = "server.proving"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from server.inspections.looking_back import EARLIER
        from server.proving.before import looked_up_in

        EARLIER.append(looked_up_in)
