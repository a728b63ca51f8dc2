from django.apps import AppConfig


class AccountsConfig(AppConfig):
    name = "true_convoy.server.accounts"
    label = "accounts"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from .. import openapi  # noqa: F401 -- registers itself
