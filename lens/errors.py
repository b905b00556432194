"""The errors of the core. Each carries one clear sentence that may be shown to a user as it is."""


class CoreError(Exception):
    """Base of every error that the core raises on purpose."""


class BadInput(CoreError, ValueError):
    """The input cannot be used. ``code`` is stable, the message says what was expected and what to do."""

    def __init__(self, message: str, code: str = "bad_input") -> None:
        super().__init__(message)
        self.message = message
        self.code = code

    def __reduce__(self) -> tuple[type["BadInput"], tuple[str, str]]:
        return type(self), (self.message, self.code)


class ModelInconsistent(CoreError):
    """A data file of the core contradicts itself; all faults are listed at once, by place."""

    def __init__(self, faults: dict[str, str]) -> None:
        super().__init__("; ".join(f"{place}: {what}" for place, what in sorted(faults.items())))
        self.faults = faults

    def __reduce__(self) -> tuple[type["ModelInconsistent"], tuple[dict[str, str]]]:
        return type(self), (self.faults,)
