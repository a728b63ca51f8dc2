"""How the OpenAPI document describes a rig's token."""

from drf_spectacular.extensions import OpenApiAuthenticationExtension


class RigScheme(OpenApiAuthenticationExtension):
    """``Authorization: Rig TOKEN``."""

    target_class = "true_convoy.server.access.RigAuthentication"
    name = "rig"

    def get_security_definition(self, auto_schema: object) -> dict[str, str]:
        """An API key in the Authorization header."""
        return {"type": "apiKey", "in": "header", "name": "Authorization", "description": "Rig TOKEN"}
