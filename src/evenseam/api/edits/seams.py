"""What is said of seams: from what comes in to what is done."""

from evenseam.api.schemas.fits import SeamSays
from evenseam.core.plan import SeamName
from evenseam.services.proofing import SeamSay


def seam_say_of(wanted: SeamSays) -> SeamSay:
    """What is said of one seam; null takes back."""
    fields: dict[str, str] = {
        name: getattr(wanted, name) or "" for name in ("verdict", "words", "wish") if name in wanted.model_fields_set
    }
    moved_to = SeamName(*wanted.moved_to) if wanted.moved_to else None
    return SeamSay(SeamName(wanted.leaves_samples, wanted.enters_samples), fields, moved_to)
