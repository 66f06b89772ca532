"""Tempi as files: which steady ones meet the hits of a picture, and one of them, or the beats of a fit as they are heard, as a
tempo map, a click or a table of bars.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from evenseam.core.exchange.tempi.bars_csv import write_bars
from evenseam.core.exchange.tempi.click_wav import ClickStyle, write_click
from evenseam.core.exchange.tempi.fit_beats import bars_as_csv, beats_as_click, beats_as_midi
from evenseam.core.exchange.tempi.tempo_midi import write_tempo_midi
from evenseam.core.plan import Plan
from evenseam.core.plan.counted import Counted, counted
from evenseam.core.spot import Hit
from evenseam.core.tempo.steady import Steady, find_steady
from evenseam.core.tempo.tempo_map import TempoMap
from evenseam.core.timebase import FrameRate
from evenseam.services.context import Context
from evenseam.services.spotted import Spotted, click_name
from evenseam.store.fits import get_fit
from evenseam.store.plans import read_plan
from evenseam.store.productions import get_picture
from evenseam.store.sheets import rate_of, sheet_of

_CLICK_RATE_HZ = 48_000


@dataclass(frozen=True, slots=True)
class SteadyTempo:
    """A tempo on a picture: `starts_s`, where its bar one begins, from the picture's first frame."""

    bpm: float
    meter: int
    starts_s: float


def find_tempi(
    context: Context, picture_id: int, low_bpm: float, high_bpm: float, meter: int | None, starts_frames: int | None
) -> tuple[Sequence[Hit], tuple[Steady, ...], FrameRate]:
    """The hits of a picture, the tempi that meet them best, best first, and its rate. Raises: NotFoundError, BriefError.

    `meter`: None for any. `starts_frames`: where bar one begins, None for anywhere.
    """
    seen = _spotted(context, picture_id)
    starts_s = None if starts_frames is None else seen.seconds(starts_frames)
    return seen.hits, find_steady(seen.struck(), low_bpm, high_bpm, meter, starts_s), seen.rate


def tempo_map(context: Context, picture_id: int, tempo: SteadyTempo) -> tuple[bytes, str]:
    """A Standard MIDI File with the hits as markers, and a name for it. Raises: NotFoundError."""
    seen = _spotted(context, picture_id)
    data = write_tempo_midi(TempoMap.steady(tempo.bpm, tempo.meter, tempo.starts_s), seen.markers())
    return data, _named(seen, tempo, ".mid")


def bars_of(context: Context, picture_id: int, tempo: SteadyTempo) -> tuple[bytes, str]:
    """A table of the bars of a picture, and a name for it. Raises: NotFoundError."""
    seen = _spotted(context, picture_id)
    table = write_bars(tempo.bpm, tempo.meter, tempo.starts_s, seen.rate, seen.start_frames, seen.length_frames)
    return table, _named(seen, tempo, ".csv")


def click_of(context: Context, picture_id: int, tempo: SteadyTempo, style: ClickStyle, path: Path) -> str:
    """Write a click as long as the picture; returns a name for it, which says so where it starts earlier.

    Raises: NotFoundError.
    """
    seen = _spotted(context, picture_id)
    early_s = write_click(path, tempo.bpm, tempo.meter, tempo.starts_s, seen.length_s, _CLICK_RATE_HZ, style)
    return click_name(_named(seen, tempo, ""), early_s)


@dataclass(frozen=True, slots=True)
class FitBeats:
    """The beats of a fit as they are heard, and where it lies on its picture."""

    name: str
    plan: Plan
    beats: Counted
    rate: FrameRate
    start_frames: int
    labels: Sequence[str]

    def tempo_map(self) -> bytes:
        """A Standard MIDI File that starts with the fit, its hits as markers."""
        return beats_as_midi(self.beats, self.plan, self.labels)

    def table(self) -> bytes:
        """Of its bars, as CSV."""
        return bars_as_csv(self.beats, self.rate, self.start_frames)

    def write_click(self, path: Path) -> None:
        """As long as the fit, at its rate."""
        beats_as_click(self.beats, path)


def beats_of_fit(context: Context, fit_id: int) -> FitBeats:
    """The beats of a kept fit. Raises: NotFoundError, NotReadyError, BriefError where it has no bars."""
    with context.database.transaction() as session:
        fit = get_fit(session, fit_id)
        cue, track, plan = fit.cue, fit.track, read_plan(fit.plan)
        name = f"{cue.number} {cue.name} {track.title}"
        rate, start_frames = rate_of(cue.picture), cue.picture.start_frames + cue.slot_start_frames
        labels = {hit.at_frames - cue.slot_start_frames: hit.label for hit in sheet_of(cue.picture).hits}
    asked = [round(hit.asked_samples * rate.fps / plan.rate) for hit in plan.hits]
    beats = counted(plan, context.planners.get(track).chart)
    return FitBeats(name, plan, beats, rate, start_frames, [labels.get(frames, "") for frames in asked])


def _spotted(context: Context, picture_id: int) -> Spotted:
    with context.database.transaction() as session:
        return Spotted.of(get_picture(session, picture_id))


def _named(seen: Spotted, tempo: SteadyTempo, suffix: str) -> str:
    return f"{seen.name} {tempo.bpm:g} bpm{suffix}"
