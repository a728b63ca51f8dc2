from django.apps import AppConfig


class ReleasesConfig(AppConfig):
    name = "true_convoy.server.releases"
    label = "releases"
    default_auto_field = "django.db.models.BigAutoField"
