from django.apps import AppConfig


class ClientsConfig(AppConfig):
    name = "studio.clients"
    default_auto_field = "django.db.models.BigAutoField"
