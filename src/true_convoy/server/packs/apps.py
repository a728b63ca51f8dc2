from django.apps import AppConfig


class PacksConfig(AppConfig):
    name = "true_convoy.server.packs"
    label = "packs"
    default_auto_field = "django.db.models.BigAutoField"
