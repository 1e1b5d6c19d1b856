"""How passwords are stored, and which are too easy to guess."""

from __future__ import annotations

from django.contrib.auth.hashers import Argon2PasswordHasher
from django.core.exceptions import ValidationError
from zxcvbn import zxcvbn  # type: ignore[import-untyped]

# More guesses than this, and somebody who has the hashes needs days for one: the library's own scale, "somewhat
# guessable" and better (Wheeler, "zxcvbn: Low-Budget Password Strength Estimation", USENIX Security 2016).
LEAST_SCORE = 2
# What is beyond adds nothing, and takes long to look through.
LOOKED_AT = 72
LONGEST = 256


class Argon2(Argon2PasswordHasher):
    """Argon2id with what RFC 9106, section 4, recommends second: three passes over 64 MiB in four lanes."""

    time_cost = 3
    memory_cost = 65_536  # KiB
    parallelism = 4


class GuessValidator:
    """Refuses what a guesser tries first: words, names, dates, keyboard rows, digits, blanks, the account's own."""

    def validate(self, password: str, user: object = None) -> None:
        """Raises ValidationError with a sentence."""
        if len(password) > LONGEST:
            raise ValidationError(f"The password is longer than {LONGEST} characters.", code="too_long")
        if not password.strip():
            raise ValidationError("The password is nothing but blanks.", code="blank")
        if password.isdigit():
            raise ValidationError("The password is nothing but digits; add words.", code="digits")
        own = [str(getattr(user, key, "") or "") for key in ("email", "name")]
        if zxcvbn(password[:LOOKED_AT], user_inputs=[w for o in own for w in (o, *o.split())])["score"] < LEAST_SCORE:
            raise ValidationError(
                "This password is easily guessed. Take three or four words that have nothing to do with each other.",
                code="guessed",
            )

    def get_help_text(self) -> str:
        """What is asked."""
        return "Three or four words that have nothing to do with each other make a good password."
