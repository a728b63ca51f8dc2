"""Boarding codes: short, read aloud and typed without mistakes.

Nine random characters and a check character, shown as two groups of five. The alphabet has 23 characters (a prime) and
none that looks like another: no 0, 1, A, B, D, E, I, L, O, Q, S, U or Z. The check character is a weighted sum modulo
23, which finds every single wrong character and every swap of two.
"""

from collections.abc import Callable

from .errors import ConvoyError

ALPHABET = "23456789CFGHJKMNPRTVWXY"
LENGTH = 10


class CodeError(ConvoyError):
    """A text is not a boarding code."""


def check_character(body: str) -> str:
    """The last character of a code whose first nine are ``body``."""
    total = sum((position + 1) * ALPHABET.index(character) for position, character in enumerate(body))
    return ALPHABET[-total * pow(LENGTH, -1, len(ALPHABET)) % len(ALPHABET)]


def make_code(choose: Callable[[str], str]) -> str:
    """A new code; ``choose`` picks a character of a string at random."""
    body = "".join(choose(ALPHABET) for _ in range(LENGTH - 1))
    return show_code(body + check_character(body))


def show_code(characters: str) -> str:
    """Ten characters as people see them: two groups of five."""
    return f"{characters[:5]}-{characters[5:]}"


def read_code(text: str) -> str:
    """The code a person typed, in its shown form. Raises CodeError with a sentence if it cannot be one."""
    typed = "".join(character for character in text.upper() if character not in " -_\t\r\n")
    if strange := [character for character in typed if character not in ALPHABET]:
        raise CodeError(f'Boarding codes never contain "{strange[0][:1]}". Please check what was copied.')
    if len(typed) != LENGTH:
        raise CodeError(f"A boarding code has {LENGTH} characters; this one has {len(typed)}.")
    if check_character(typed[:-1]) != typed[-1]:
        raise CodeError("A character of this boarding code is mistyped or two are swapped.")
    return show_code(typed)
