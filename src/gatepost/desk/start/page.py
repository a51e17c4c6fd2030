# SPDX-License-Identifier: GPL-3.0-or-later
"""The start page: what it is for, runs that ended early, recent jobs with the picture of their sign, and examples to learn from."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QPixmap
from PyQt6.QtWidgets import (
    QAbstractButton,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from gatepost.desk.start.recent import RecentJob
from gatepost.desk.theme.style import font
from gatepost.desk.theme.words import Label, tip

PICTURE = QSize(262, 124)
ACROSS = 4
KEYS = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -ACROSS, Qt.Key.Key_Down: ACROSS}
# what can be learned, how much of it, the example's file and what is done with it
EXAMPLES = (
    ("A board with something wrong", "the first ten minutes", "lock-7-first-look.gatepost", ""),
    ("Practise with a faulty machine", "troubles to catch", "quay-plate.gatepost", "practice"),
    ("A slab out of true", "levelling, shims, passes", "lock-7-name-board.gatepost", "surface"),
    ("Sixteen mileposts", "matched in thickness, held in a nest", "sixteen-mileposts.gatepost", "carve"),
    ("Tea-room hanging sign", "painted first, words on arcs, a border", "tea-room-sign.gatepost", "carve"),
    ("Heron panel", "a relief, and a gouged ground", "heron-panel.gatepost", "carve"),
    ("Lock 7 with a water-lily", "a drawing beside letters", "lock-7-with-lily.gatepost", "carve"),
    ("Raised milepost", "letters left standing in a ground", "raised-milepost.gatepost", "carve"),
    ("Tea-room sign, both sides", "turned over into its own frame", "tea-room-both-sides.gatepost", "register"),
    ("Towpath bench rail", "a date on an old rail, by its holes", "bench-rail.gatepost", "register"),
    ("Four-faced milepost", "a post stood on each of four faces", "four-faced-milepost.gatepost", "register"),
)


@dataclass(frozen=True)
class Unfinished:
    """A run that ended early. path: of its job; picture: of its sign; words: where it stopped and when; means: what is to be done."""

    path: Path
    picture: Path
    words: str
    means: str


class JobCard(QAbstractButton):
    """A picture over words. Enter and Space open it; arrows go from card to card."""

    moved = pyqtSignal(int)

    def __init__(self, title: str, line: str, picture: Path | None, shut: bool = False) -> None:
        super().__init__()
        self.setObjectName("card")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(f"{title}, {line}" if line else title)
        self.setFixedSize(PICTURE.width() + 6, (PICTURE.height() if picture is not None else 0) + 64)
        column = QVBoxLayout(self)
        column.setContentsMargins(3, 3, 3, 6)
        column.setSpacing(2)
        if picture is not None:
            shown = QLabel()
            shown.setFixedSize(PICTURE)
            shown.setObjectName("cardpicture")
            shown.setAlignment(Qt.AlignmentFlag.AlignCenter)
            pixels = QPixmap(str(picture)) if picture.exists() else QPixmap()
            if not pixels.isNull():
                wide = pixels.scaled(
                    PICTURE, Qt.AspectRatioMode.KeepAspectRatioByExpanding, Qt.TransformationMode.SmoothTransformation
                )
                off = (wide.height() - PICTURE.height()) // 2
                shown.setPixmap(wide.copy(0, max(off, 0), PICTURE.width(), PICTURE.height()))
            column.addWidget(shown)
        head, below = Label(title), Label(line)
        head.setFont(font(15, True))
        below.setObjectName("stop" if shut else "muted")
        for label in (head, below):
            label.setContentsMargins(11, 0, 6, 0)
            label.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            column.addWidget(label)
        tip(self, f"{title}. {line}")

    def paintEvent(self, event: object) -> None:
        """Its ground is the style sheet's."""

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter opens; arrows go on."""
        if event is None:
            return
        key = Qt.Key(event.key())
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.click()
        elif key in KEYS:
            self.moved.emit(KEYS[key])
        else:
            super().keyPressEvent(event)


class StartPage(QWidget):
    """Everything by keyboard too."""

    new_wanted = pyqtSignal()
    open_wanted = pyqtSignal()
    job_wanted = pyqtSignal(object)
    resume_wanted = pyqtSignal(object)  # the job whose run ended early
    example_wanted = pyqtSignal(str, str)
    settings_wanted = pyqtSignal()
    help_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("start")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        inside = QWidget()
        inside.setObjectName("inside")
        scroll.setWidget(inside)
        outer.addWidget(scroll, 1)
        column = QVBoxLayout(inside)
        column.setContentsMargins(56, 34, 56, 8)
        column.setSpacing(8)
        column.addLayout(self._head())
        self.unfinished = QVBoxLayout()
        column.addLayout(self.unfinished)
        self._jobs_head, self.jobs = Label("Your jobs"), QGridLayout()
        self._try_head, self.to_try = Label("To try"), QGridLayout()
        for head, grid in ((self._jobs_head, self.jobs), (self._try_head, self.to_try)):
            head.setFont(font(17, True))
            grid.setSpacing(16)
            grid.setColumnStretch(ACROSS, 1)
            column.addSpacing(6)
            column.addWidget(head)
            column.addLayout(grid)
        for i, (title, line, file, then) in enumerate(EXAMPLES):
            card = JobCard(title, line, None)
            card.clicked.connect(lambda _=False, f=file, t=then: self.example_wanted.emit(f, t))
            card.moved.connect(lambda by, at=card: self._go(at, by))
            self.to_try.addWidget(card, i // ACROSS, i % ACROSS)
        column.addStretch(1)
        outer.addLayout(self._foot())

    def _head(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(8)
        title = Label("Gatepost")
        title.setFont(font(40, True))
        words = Label(
            "From a bare board to a finished sign. Measure it, see what is wrong and by how much,\n"
            "cut it on the simulated machine or your own, and remember how it went."
        )
        words.setFont(font(17))
        words.setObjectName("muted")
        column.addWidget(title)
        column.addWidget(words)
        row = QHBoxLayout()
        row.setSpacing(12)
        self.new, self.open = QPushButton("New job"), QPushButton("Open…")
        self.new.setObjectName("first")
        self.new.setToolTip("Ctrl+N")
        self.open.setToolTip("Ctrl+O")
        self.new.clicked.connect(self.new_wanted.emit)
        self.open.clicked.connect(self.open_wanted.emit)
        for button, wide in ((self.new, 200), (self.open, 160)):
            button.setFont(font(17, True))
            button.setFixedSize(wide, 52)
            button.setAutoDefault(True)  # Enter opens
            row.addWidget(button)
        hint = Label("or drop a job, a drawing, a photo or a program here")
        hint.setObjectName("muted")
        row.addSpacing(8)
        row.addWidget(hint)
        row.addStretch(1)
        column.addSpacing(4)
        column.addLayout(row)
        return column

    def _foot(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setContentsMargins(56, 4, 56, 14)
        foot = Label(
            "Gatepost says what it checked, never that a setup is safe. The machine's manual and local rules come first."
        )
        foot.setObjectName("muted")
        row.addWidget(foot)
        row.addStretch(1)
        for words, signal in (("Shop settings…", self.settings_wanted), ("Help  F1", self.help_wanted)):
            button = QPushButton(words)
            button.setObjectName("flat")
            button.clicked.connect(lambda _=False, s=signal: s.emit())
            row.addWidget(button)
        return row

    def show_jobs(self, jobs: list[RecentJob], left: list[Path], unfinished: list[Unfinished]) -> None:
        """Runs that ended early and copies of jobs that were left open first, then recent jobs."""
        for layout in (self.unfinished, self.jobs):
            while layout.count():
                item = layout.takeAt(0)
                widget = item.widget() if item is not None else None
                if widget is not None:
                    widget.hide()
                    widget.deleteLater()
        for one in unfinished[:2]:
            self.unfinished.addWidget(self._banner(one.picture, one.words, one.means, "Resume…", one.path, resume=True))
        for copy in left[:2]:
            name = copy.stem.rsplit("-", 2)[0].replace("-", " ").capitalize()
            words = f"{name} was left open when Gatepost ended early"
            self.unfinished.addWidget(
                self._banner(
                    copy, words, "The copy that was kept has what was not saved.", "Open it", copy, resume=False
                )
            )
        self._jobs_head.setVisible(bool(jobs))
        for i, job in enumerate(jobs):
            card = JobCard(job.name, job.state, job.picture, job.shut)
            card.clicked.connect(lambda _=False, p=job.path: self.job_wanted.emit(p))
            card.moved.connect(lambda by, at=card: self._go(at, by))
            tip(card, str(job.path))
            self.jobs.addWidget(card, i // ACROSS, i % ACROSS)

    def _banner(self, picture: Path, words: str, means: str, verb: str, path: Path, resume: bool) -> QWidget:
        banner = QWidget()
        banner.setObjectName("banner")
        banner.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(banner)
        row.setContentsMargins(14, 10, 14, 10)
        row.setSpacing(18)
        pixels = QPixmap(str(picture)) if picture.suffix == ".png" and picture.exists() else QPixmap()
        if not pixels.isNull():
            shown = QLabel()
            shown.setPixmap(pixels.scaledToHeight(60, Qt.TransformationMode.SmoothTransformation))
            row.addWidget(shown)
        column = QVBoxLayout()
        head, line = Label(words), Label(means)
        head.setFont(font(17, True))
        line.setObjectName("muted")
        column.addWidget(head)
        column.addWidget(line)
        row.addLayout(column, 1)
        button = QPushButton(verb)
        button.setFont(font(15, True))
        button.setMinimumSize(150, 44)
        button.setAutoDefault(True)
        wanted = self.resume_wanted if resume else self.job_wanted
        button.clicked.connect(lambda: wanted.emit(path))
        row.addWidget(button)
        return banner

    def _go(self, card: JobCard, by: int) -> None:
        """From card to card, over both rows of them."""
        cards = [
            w for grid in (self.jobs, self.to_try) for i in range(grid.count())
            if (item := grid.itemAt(i)) is not None and isinstance(w := item.widget(), JobCard)
        ]  # fmt: skip
        at = cards.index(card) + by
        if 0 <= at < len(cards):
            cards[at].setFocus(Qt.FocusReason.OtherFocusReason)
        elif at < 0:
            self.new.setFocus(Qt.FocusReason.OtherFocusReason)
