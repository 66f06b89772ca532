"""What holds for every file that comes in."""

import shutil

from evenseam.core.errors import DiskFullError, TooLargeError
from evenseam.services.context import Context

SNIFF_BYTES = 16
_BYTES_PER_MB = 1_000_000
_SPACE_KEPT_BYTES = 200 * _BYTES_PER_MB


def check_limit(context: Context, size_bytes: int) -> None:
    """Raises: TooLargeError for a file above the limit."""
    limit = context.settings.upload_limit_mb
    if size_bytes > limit * _BYTES_PER_MB:
        raise TooLargeError(f"The file is larger than {limit:,} MB. Make it smaller or cut it in parts.", limit_mb=limit)


def check_room(context: Context, size_bytes: int) -> None:
    """Raises: TooLargeError, DiskFullError for a file that there is no room for where files arrive."""
    check_limit(context, size_bytes)
    if shutil.disk_usage(context.settings.scratch_dir).free < size_bytes + _SPACE_KEPT_BYTES:
        raise DiskFullError("There is not enough space on the disk for this file. Free some and add it again.")
