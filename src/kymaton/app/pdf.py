"""A PDF on A4, drawn with a painter and written whole or not at all."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from PyQt6.QtCore import QBuffer, QIODevice, QMarginsF
from PyQt6.QtGui import QPageLayout, QPageSize, QPainter, QPdfWriter

from kymaton.store.atomic import write_whole


@contextmanager
def pdf(
    path: Path, title: str, margin_mm: float, wide: float, lying: bool = False
) -> Iterator[tuple[QPdfWriter, QPainter]]:
    """What pages are begun with and what draws on them, `wide` units between the margins. Raises FileError."""
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
    orientation = QPageLayout.Orientation
    writer.setPageOrientation(orientation.Landscape if lying else orientation.Portrait)
    writer.setPageMargins(QMarginsF(*[margin_mm] * 4), QPageLayout.Unit.Millimeter)
    writer.setTitle(title)
    painter = QPainter(writer)
    painter.scale(writer.width() / wide, writer.width() / wide)
    try:
        yield writer, painter
    finally:
        painter.end()
    write_whole(path, buffer.data().data())
