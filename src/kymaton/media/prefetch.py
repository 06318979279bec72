"""Items that a thread of their own makes, some ahead of who takes them."""

from collections.abc import Generator, Iterator
from queue import SimpleQueue
from threading import Semaphore, Thread
from typing import Generic, TypeVar

T = TypeVar("T")
END = object()


class Prefetcher(Generic[T]):
    """An iterator over what a generator yields. The generator begins with the first item asked for.

    What it raises is raised here, after the items before it. `close` ends it between two items, and waits for that.
    """

    def __init__(self, items: Generator[T, None, None], most: int = 32) -> None:
        self._items, self._room = items, Semaphore(most)
        self._made: SimpleQueue[object] = SimpleQueue()
        self._enough = False
        self._thread: Thread | None = None

    def __iter__(self) -> Iterator[T]:
        return self

    def __next__(self) -> T:
        if self._thread is None:
            self._thread = Thread(target=self._make, daemon=True)
            self._thread.start()
        item = self._made.get()
        self._room.release()
        if item is END or isinstance(item, BaseException):
            self._made.put(END)  # for who asks again
            raise StopIteration if item is END else item  # type: ignore[misc]
        return item  # type: ignore[return-value]

    def _make(self) -> None:
        try:
            for item in self._items:
                self._made.put(item)
                self._room.acquire()
                if self._enough:
                    self._items.close()
                    break
            self._made.put(END)
        except BaseException as error:
            self._made.put(error)

    def close(self) -> None:
        self._enough = True
        self._room.release()
        if self._thread is not None:
            self._thread.join()
