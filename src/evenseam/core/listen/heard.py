"""What listening found before any beat was named: kept, so that a chart can be put right without hearing the sound again."""

import io
from dataclasses import dataclass
from fractions import Fraction
from typing import Any, Self

import numpy as np
from numpy.typing import NDArray

from evenseam.core.audio.attacks import Attacks
from evenseam.core.listen.beats.ear import Hearing
from evenseam.core.listen.features.spectra import Spectra

FloatArray = NDArray[np.float32]


@dataclass(frozen=True, slots=True, eq=False)
class Heard:
    """Per hop of `samples_per_hop` samples: `bands` (hops, 48), `chroma` (hops, 12), `rise` (hops,), as in Spectra.

    Per four hops: `tones` (ceil(hops / 4), 60), in half precision.

    Per step of two hops, float32 (steps,): how likely a beat, a lead and a voice are.
    """

    bands: FloatArray
    chroma: FloatArray
    rise: FloatArray
    tones: NDArray[np.float16]
    beat: FloatArray
    lead: FloatArray
    voice: FloatArray
    samples_per_hop: Fraction
    attacks: Attacks
    samples_per_mono: Fraction  # of the mix in whose samples attacks are placed

    @classmethod
    def of(cls, spec: Spectra, hearing: Hearing, attacks: Attacks, samples_per_mono: Fraction) -> Self:
        """What is kept of a hearing."""
        said = (hearing.beat, hearing.lead, hearing.voice)
        return cls(
            spec.bands,
            spec.chroma,
            spec.rise,
            spec.tones.astype(np.float16),
            *said,
            spec.samples_per_hop,
            attacks,
            samples_per_mono,
        )

    @property
    def n_hops(self) -> int:
        """Number of hops."""
        return int(self.bands.shape[0])

    def to_bytes(self) -> bytes:
        """Stored form: an .npz of half-precision arrays; some 19 kB a second."""
        out = io.BytesIO()
        arrays: dict[str, Any] = {name: getattr(self, name).astype(np.float16) for name in _ARRAYS}
        ratios = [v for r in (self.samples_per_hop, self.samples_per_mono) for v in (r.numerator, r.denominator)]
        arrays |= {"attack_rise": self.attacks.rise.astype(np.float16), "attack_rate": np.float64(self.attacks.rate)}
        np.savez(out, ratios=np.array(ratios), attack_step=np.int64(self.attacks.step), **arrays)
        return out.getvalue()

    @classmethod
    def from_bytes(cls, data: bytes) -> Self:
        """Inverse of `to_bytes`, to half precision."""
        with np.load(io.BytesIO(data), allow_pickle=False) as stored:
            hop, hop_parts, mono, mono_parts = (int(v) for v in stored["ratios"])
            rise = stored["attack_rise"].astype(np.float32)
            return cls(
                **{name: stored[name].astype(np.float16 if name == "tones" else np.float32) for name in _ARRAYS},
                samples_per_hop=Fraction(hop, hop_parts),
                attacks=Attacks(rise, int(stored["attack_step"]), float(stored["attack_rate"])),
                samples_per_mono=Fraction(mono, mono_parts),
            )


_ARRAYS = ("bands", "chroma", "rise", "tones", "beat", "lead", "voice")
