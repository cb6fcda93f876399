"""What a line of the log says beside its message: when, and who asked from where."""

import logging


class WhoAsked(logging.Filter):
    """Adds the number of the account and the address of the request that a record is about; a dash where it is about none."""

    def filter(self, record: logging.LogRecord) -> bool:
        request = getattr(record, "request", None)
        user = getattr(request, "_cached_user", None)  # never looked up for the log: the database may be what failed
        record.account = getattr(user, "pk", None) or "-"
        record.address = getattr(request, "META", {}).get("REMOTE_ADDR") or "-"
        return True
