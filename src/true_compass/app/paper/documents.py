"""The one way of everything that is printed or exported: look at it, then print or save it."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from true_compass.files.problems import saved_words, shown_text

if TYPE_CHECKING:
    from PyQt6.QtPrintSupport import QPrinter

    from true_compass.drawing.documents import Document, Paper

AskPath = Callable[[QWidget, str], Path | None]
AskPrinter = Callable[[QWidget, "Paper", str], "QPrinter | None"]


class Shows(Protocol):
    """What lets a person look at a document."""

    def show_document(self, document: "Document") -> None:
        """Show its first page."""


class Documents(QObject):
    """Shows a document, saves it where it is asked to, and prints it.

    `ask_path` and `ask_printer` are the two questions that need a dialog. `preview` is made when
    the first document is looked at; a start pays for no paper. `printers` names what the system
    can print on.
    """

    said = pyqtSignal(str)

    def __init__(
        self,
        ask_path: AskPath,
        ask_printer: AskPrinter,
        printers: Callable[[], list[str]],
        preview: Callable[[], Shows],
        window: QWidget,
    ) -> None:
        super().__init__(window)
        self._ask_path = ask_path
        self._ask_printer = ask_printer
        self.printers = printers
        self._preview = preview
        self._window = window

    def show(self, document: "Document") -> None:
        """Let a person look at a document before anything is done with it."""
        from true_compass.drawing.documents import DocumentError

        try:
            self._preview().show_document(document)
        except DocumentError as error:
            self.said.emit(str(error))

    def save(self, document: "Document", paper: "Paper") -> None:
        """Ask where to, and write the document there; no ending means PDF."""
        from true_compass.drawing.documents import SUFFIXES, DocumentError, write_document

        path = self._ask_path(self._window, f"{document.name}.pdf")
        if path is None:
            return
        if path.suffix.lower() not in SUFFIXES:
            path = path.with_name(path.name + ".pdf")
        try:
            write_document(document, paper, path)
        except OSError as error:
            reason = error.strerror or str(error)
            self.said.emit(
                f"{shown_text(path.name)} could not be written ({reason}). Choose another folder."
            )
        except DocumentError as error:
            self.said.emit(str(error))
        else:
            self.said.emit(saved_words(path))

    def print(self, document: "Document", paper: "Paper") -> None:
        """Ask for a printer, and print the document true to size."""
        from true_compass.drawing.documents import paint_pages

        printer = self._ask_printer(self._window, paper, document.printer)
        if printer is None:
            return
        name = printer.printerName()
        if not paint_pages(printer, paper, document.pages(paper)):
            self.said.emit("The printer did not take it. Save it as PDF and print that.")
        elif document.printer and name and name != document.printer:
            self.said.emit(
                f"Sent to {shown_text(name)}, but drawn for {shown_text(document.printer)}: "
                "measure its bars."
            )
        else:
            self.said.emit("Sent to the printer.")
