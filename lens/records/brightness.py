"""How bright a panel is, and what its brightness control does."""

from typing import Literal

from pydantic import Field

from lens.records.base import Record

BrightnessControl = Literal["works", "stuck", "dark", "unclear"]
Pulses = Literal["dimmed", "yes"]


class WhiteLight(Record):
    """White's luminance by the camera's exposure: the true one lies within ``factor`` of it, at the brightness that was set."""

    cd_m2: float
    factor: float

    @property
    def words(self) -> str:
        """No more figures than are known: 'about 330 cd/m2, 220 to 490'."""
        least, most = (float(f"{value:.2g}") for value in (self.cd_m2 / self.factor, self.cd_m2 * self.factor))
        return f"about {float(f'{self.cd_m2:.2g}'):.0f} cd/m2, {least:.0f} to {most:.0f}"


class RowTime(Record):
    """A camera's time from one row of its sensor to the next, from the bars of a lamp."""

    row_time_us: float
    uncertainty_us: float = Field(description="half-width at 90 %")
    period_px: float
    bars: float = Field(description="how many the photo holds")


class BrightnessStep(Record):
    """A setting of the brightness control and what it gives."""

    percent: int
    light: float | None = Field(description="share of the brightest step's light; None where the photo does not tell")
    bars: bool = Field(description="the photo has the bars of a light that is dimmed by pulses")
    pulses_hz: float | None = None


class BrightnessCurve(Record):
    """What the brightness control does, from a photo of white at each step."""

    steps: tuple[BrightnessStep, ...]
    uncertainty: float = Field(description="half-width of a step's light at 90 %, as a share of it")
    control: BrightnessControl
    pulses: Pulses | None = Field(
        description="yes: bars at full brightness as well; dimmed: only below it; null where no photo has bars or full was not shot"
    )
    full: WhiteLight | None = Field(description="white at full brightness")
    reasons: tuple[str, ...]
