"""What is remembered between sessions: window, theme, recent files."""

from pathlib import Path

from PyQt6.QtCore import QByteArray, QSettings

from kymaton.store.folders import config_folder

MOST_RECENT = 8


class Settings:
    """A thin, typed face over one INI file in the person's configuration folder."""

    def __init__(self) -> None:
        path = config_folder() / "kymaton.ini"
        self._store = QSettings(str(path), QSettings.Format.IniFormat)

    @property
    def theme(self) -> str:
        return str(self._store.value("theme", "desktop"))

    @theme.setter
    def theme(self, name: str) -> None:
        self._store.setValue("theme", name)

    @property
    def geometry(self) -> QByteArray:
        value = self._store.value("geometry", QByteArray())
        return value if isinstance(value, QByteArray) else QByteArray()

    @geometry.setter
    def geometry(self, value: QByteArray) -> None:
        self._store.setValue("geometry", value)

    @property
    def findings_open(self) -> bool:
        return str(self._store.value("findings", "true")) == "true"

    @findings_open.setter
    def findings_open(self, shown: bool) -> None:
        self._store.setValue("findings", "true" if shown else "false")

    @property
    def guide_closed(self) -> bool:
        """Whether the first day's guide was put away."""
        return str(self._store.value("guide closed", "false")) == "true"

    @guide_closed.setter
    def guide_closed(self, closed: bool) -> None:
        self._store.setValue("guide closed", "true" if closed else "false")

    def number(self, name: str, usual: float) -> float:
        """A number that was typed last time; the usual one where none was, or none that can be read."""
        try:
            return float(str(self._store.value(name, usual)))
        except ValueError:
            return usual

    def text(self, name: str, usual: str) -> str:
        """A text that was typed last time, or the usual one."""
        return str(self._store.value(name, usual))

    def keep(self, name: str, value: float | str) -> None:
        """Remember a number or a text."""
        self._store.setValue(name, value)

    @property
    def recent(self) -> list[Path]:
        value = self._store.value("recent", [])
        items = [value] if isinstance(value, str) else list(value or [])
        return [Path(x) for x in items if x]

    def opened(self, path: Path) -> None:
        """Put a file at the top of the recent ones."""
        path = path.resolve()
        items = [path, *(p for p in self.recent if p != path)][:MOST_RECENT]
        self._store.setValue("recent", [str(p) for p in items])

    def sync(self) -> None:
        self._store.sync()
