"""Items that a thread of their own makes, some ahead of who takes them."""

import contextlib
from collections.abc import Generator, Iterator
from queue import Empty, Queue
from threading import Thread
from typing import Generic, TypeVar, cast

T = TypeVar("T")


class Prefetcher(Generic[T]):
    """An iterator over what a generator yields. The generator begins with the first item asked for.

    At most `most` items wait. What the generator raises is raised here, after the items before it. `close` ends it
    between two items, and waits for that.
    """

    def __init__(self, items: Generator[T, None, None], most: int = 32) -> None:
        self._items = items
        self._made: Queue[tuple[T | None, BaseException | None]] = Queue(most)
        self._enough = False
        self._thread: Thread | None = None

    def __iter__(self) -> Iterator[T]:
        return self

    def __next__(self) -> T:
        if self._thread is None:
            self._thread = Thread(target=self._make, daemon=True)
            self._thread.start()
        item, error = self._made.get()
        if error is not None:
            self._made.put((None, StopIteration()))  # for who asks again
            raise error
        return cast(T, item)

    def _make(self) -> None:
        try:
            for item in self._items:
                self._made.put((item, None))
                if self._enough:
                    self._items.close()
                    break
        except BaseException as error:
            self._made.put((None, error))
        else:
            self._made.put((None, StopIteration()))

    def close(self) -> None:
        """End the generator between two items, and wait for that."""
        self._enough = True
        while self._thread is not None and self._thread.is_alive():
            with contextlib.suppress(Empty):  # it may wait for room
                self._made.get(timeout=0.01)
