from django.apps import AppConfig


class RigsConfig(AppConfig):
    name = "true_convoy.server.rigs"
    label = "rigs"
    default_auto_field = "django.db.models.BigAutoField"
