from django.apps import AppConfig


class FilesConfig(AppConfig):
    name = "true_convoy.server.files"
    label = "files"
    default_auto_field = "django.db.models.BigAutoField"
