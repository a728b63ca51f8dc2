"""``among``: ``IN`` with the values as one array, which stays quick with thousands of them."""

from collections.abc import Iterable
from typing import Any

from django.db.models import Lookup


class Among(Lookup):
    """Rows whose column is one of several values."""

    lookup_name = "among"
    prepare_rhs = False

    def get_db_prep_lookup(self, value: Iterable[str], connection: Any) -> tuple[str, list[Any]]:
        """All the values as one parameter."""
        return "%s", [list(value)]

    def as_sql(self, compiler: Any, connection: Any) -> tuple[str, list[Any]]:
        """``column = ANY(values)``."""
        column, before = self.process_lhs(compiler, connection)
        values, after = self.process_rhs(compiler, connection)
        return f"{column} = ANY({values})", [*before, *after]
