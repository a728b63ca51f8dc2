from django.apps import AppConfig


class CatalogueConfig(AppConfig):
    name = "true_convoy.server.catalogue"
    label = "catalogue"
    default_auto_field = "django.db.models.BigAutoField"
