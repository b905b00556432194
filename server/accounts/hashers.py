"""How passwords are stored."""

from django.contrib.auth.hashers import Argon2PasswordHasher


class Argon2(Argon2PasswordHasher):
    """Argon2id with 19 MiB, two passes, one lane (OWASP, Password Storage Cheat Sheet, Argon2id)."""

    memory_cost = 19 * 1024
    time_cost = 2
    parallelism = 1
