"""The base of all records: frozen, closed to unknown fields."""

from pydantic import BaseModel, ConfigDict


class Record(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")
