"""Passwords: which are taken, and how they are hashed and compared within a fixed budget of memory (Argon2id, RFC 9106)."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from threading import BoundedSemaphore, Lock

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from zxcvbn import zxcvbn

from anabasis.errors import InputRefused, Problem, TooManyTries

SHORTEST, LONGEST = 10, 200
"""Characters of a password."""
AT_ONCE = 2
"""Hashes worked out at once in this process; each takes the memory that the hasher is set to (64 MiB), whoever asks."""
WAITING = 24
"""How many may wait for that; whoever comes then is told to come again."""
WEAKEST = 2
"""Of 4: what is guessed within 10 ** 6 tries, which is what lists of common passwords and repeated signs are, is not taken."""


def check_password(password: str, *known: str) -> None:
    """Raise InputRefused for a password that is too short or easily guessed.

    Args:
        password: the one that is wished for.
        known: words that a stranger would try first: the name of the account.
    """
    if not SHORTEST <= len(password) <= LONGEST:
        allowed = f"{SHORTEST} to {LONGEST} characters"
        said = "the password is too short or too long"
        raise InputRefused([Problem("/password", said, f"{len(password)} characters", allowed)])
    if zxcvbn(password[:72], user_inputs=[k for k in known if k])["score"] < WEAKEST:
        allowed = "several words that nobody would put together, or a line of a manager of passwords"
        raise InputRefused([Problem("/password", "the password is easily guessed", allowed=allowed)])


class Hashes:
    """Hashes and compares passwords, a few at a time."""

    def __init__(self, hasher: PasswordHasher | None = None) -> None:
        """`hasher`: how a password is hashed; the standard one of RFC 9106 where none is given."""
        self._hasher = hasher or PasswordHasher()
        self._room = BoundedSemaphore(AT_ONCE)
        self._waiting, self._lock = 0, Lock()
        self.nobody = self._hasher.hash("nobody")
        """Compared with where there is no account, so that it takes as long."""

    def of(self, password: str) -> str:
        """Return the hash of a password. Raises TooManyTries where too many wait."""
        with self._turn():
            return self._hasher.hash(password)

    def fits(self, hashed: str, password: str) -> bool:
        """Tell whether a password is the one of a hash. Raises TooManyTries where too many wait."""
        with self._turn():
            try:
                return self._hasher.verify(hashed, password[: LONGEST + 1])
            except (VerificationError, InvalidHashError):
                return False

    @contextmanager
    def _turn(self) -> Iterator[None]:
        with self._lock:
            if self._waiting >= WAITING:
                raise TooManyTries(2)
            self._waiting += 1
        try:
            with self._room:
                yield
        finally:
            with self._lock:
                self._waiting -= 1
