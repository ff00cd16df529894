"""A cache that is bounded in bytes: what was used longest ago goes first."""

from collections import OrderedDict
from collections.abc import Collection, Hashable
from threading import Lock
from typing import Generic, TypeVar

Value = TypeVar("Value")


class BoundedCache(Generic[Value]):
    """Values by key, together at most `most_bytes`; any thread may ask and put."""

    def __init__(self, most_bytes: int) -> None:
        self._most = most_bytes
        self._held: OrderedDict[Hashable, tuple[Value, int]] = OrderedDict()
        self._bytes = 0
        self._lock = Lock()

    @property
    def bytes_held(self) -> int:
        """What is held now, as it was said when it was put."""
        return self._bytes

    def get(self, key: Hashable) -> Value | None:
        """The value of a key, which counts as used; None where there is none."""
        with self._lock:
            value = self._held.get(key)
            if value is None:
                return None
            self._held.move_to_end(key)
            return value[0]

    def put(
        self, key: Hashable, value: Value, size_bytes: int, beside: Collection[Hashable] = ()
    ) -> None:
        """Keep a value in the place of what was used longest ago, but for what is `beside` it.

        Where too little else is there to go, the value is not kept: whoever goes round more than
        fits would otherwise throw each thing away just before it is wanted again.
        """
        with self._lock:
            before = self._held.pop(key, None)
            if before is not None:
                self._bytes -= before[1]
            stays = sum(self._held[other][1] for other in beside if other in self._held)
            if stays + size_bytes > self._most:
                return
            while self._bytes + size_bytes > self._most:
                old = next(iter(self._held))
                if old in beside:
                    self._held.move_to_end(old)
                else:
                    self._bytes -= self._held.pop(old)[1]
            self._held[key] = (value, size_bytes)
            self._bytes += size_bytes
