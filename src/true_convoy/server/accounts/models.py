"""People. An account is known by its email address and shown by its name."""

from typing import Any, ClassVar

from django.contrib.auth.models import AbstractUser, BaseUserManager
from django.db import models


class UserManager(BaseUserManager["User"]):
    """Makes accounts without user names."""

    def create_user(self, email: str, password: str | None = None, **facts: Any) -> "User":
        """A new account; the address is kept in lower case."""
        user = self.model(email=self.normalize_email(email).lower(), **facts)
        user.set_password(password)
        user.save()
        return user


class User(AbstractUser):
    """An account. Names need not be unique."""

    username = None
    first_name = None
    last_name = None
    email = models.EmailField(unique=True)
    name = models.CharField(max_length=80)

    USERNAME_FIELD = "email"
    REQUIRED_FIELDS: ClassVar[list[str]] = []
    objects: ClassVar[UserManager] = UserManager()

    def __str__(self) -> str:
        return self.name or self.email
