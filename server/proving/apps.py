from django.apps import AppConfig


class ProvingConfig(AppConfig):
    name = "server.proving"
