# SPDX-License-Identifier: GPL-3.0-or-later
"""Everything that can be done, in one table: the menu, the search, the shortcuts and the list at F1 are made from it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Command:
    """name: the act's; key: its shortcut, or nothing; words: what it does; always: whether it needs no open job."""

    name: str
    key: str
    words: str
    always: bool = False


GROUPS: tuple[tuple[str, tuple[Command, ...]], ...] = (
    (
        "Job",
        (
            Command("new", "Ctrl+N", "New job", True),
            Command("open", "Ctrl+O", "Open a job…", True),
            Command("save", "Ctrl+S", "Save"),
            Command("save_as", "Ctrl+Shift+S", "Save as…"),
            Command("template", "", "What is carved, on paper at its true size, as a PDF…"),
            Command("print", "Ctrl+P", "Print the run sheet…"),
            Command("sheet", "Ctrl+Shift+P", "Run sheet as a PDF…"),
            Command("write", "Ctrl+E", "Write programs, art and pictures to a folder…"),
            Command("start", "Ctrl+W", "Close the job: back to the start page"),
            Command("quit", "Ctrl+Q", "Quit Gatepost", True),
        ),
    ),
    (
        "Edit",
        (
            Command("undo", "Ctrl+Z", "Undo"),
            Command("redo", "Ctrl+Shift+Z", "Redo"),
            Command("setups", "Shift+F6", "Setups: add, copy, rename, turn, order, take away"),
            Command("unit", "Ctrl+U", "Show mm or inches"),
        ),
    ),
    (
        "See",
        (
            Command("side", "F2", "Checks or Your figures, first field"),
            Command("focus_bed", "F3", "To the bed: N and P choose, arrows nudge"),
            Command("focus_heights", "F4", "To the heights"),
            Command("near", "F5", "The board from near, or the whole bed"),
            Command("other_setup", "F6", "The next setup"),
            Command("first_fix", "F7", "To the first fix offered"),
            Command("machine_view", "F9", "Desk or at the machine"),
            Command("before", "Ctrl+Left", "The wood one operation earlier"),
            Command("after", "Ctrl+Right", "The wood one operation later"),
            Command("theme", "Ctrl+D", "Light or dark", True),
        ),
    ),
    (
        "Board",
        (
            Command("measure", "F8", "Measure round the edge, at the place marked"),
            Command("top_table", "Ctrl+T", "Heights of the top from a table…"),
            Command("under_table", "Ctrl+Shift+T", "Gaps under the board from a table…"),
            Command("probe", "Ctrl+J", "Probe the top by the machine…"),
            Command("photo", "Ctrl+L", "Outline of the board from an overhead photo…"),
            Command("piece_photo", "", "Where the piece lies, from an overhead photo…"),
            Command("outline_file", "Ctrl+Shift+L", "Outline of the board from an SVG or DXF file…"),
            Command("corners_table", "Ctrl+Alt+L", "Outline of the board from a table of corners or stations…"),
            Command("paste_corners", "Ctrl+Alt+Shift+L", "Outline of the board from the clipboard"),
            Command("pieces_table", "Ctrl+B", "Pieces of a batch from a table…"),
            Command("paste_pieces", "Ctrl+Shift+B", "Pieces of a batch from the clipboard"),
        ),
    ),
    (
        "Carve",
        (
            Command("write", "Ctrl+Return", "Write what the sign says"),
            Command("cut_out", "Ctrl+Shift+X", "Cut out a rounded plate"),
            Command("another_line", "Ctrl+Shift+Return", "One more line of lettering"),
            Command("art_file", "Ctrl+Shift+A", "Bring a drawing, picture or mesh in…"),
            Command("face_file", "", "Bring a face for lettering in, from a TTF, OTF or WOFF file…"),
            Command("paste_art", "Ctrl+Shift+V", "A drawing from the clipboard…"),
            Command("look", "Ctrl+Shift+K", "The sign as it will look…"),
            Command("proof", "Ctrl+Shift+Y", "Read every word as it will be cut…"),
            Command("designs", "Ctrl+Shift+G", "Designs for this board, beside each other…"),
            Command("options_sheet", "", "Options sheet: all designs on paper, to be approved…"),
            Command("changes", "", "What changed since it was saved…"),
            Command("compare_file", "", "What is other than in another job file…"),
            Command("series", "", "A series from a table of texts…"),
            Command("ground", "Ctrl+Shift+U", "Sink the ground round what stays"),
            Command("recess", "Ctrl+Shift+R", "Sink a recess"),
        ),
    ),
    (
        "Hold and zero",
        (
            Command("ways", "Ctrl+K", "Places and ways of holding, compared…"),
            Command("square", "Ctrl+R", "Is it square? Two touches on an edge…"),
            Command("happened", "Ctrl+H", "What happened, and what is still known of the zeros…"),
            Command("ledger", "Ctrl+G", "The Z ledger of the surfacing…"),
        ),
    ),
    (
        "Machine",
        (
            Command("simulated", "Ctrl+M", "Start a simulated machine"),
            Command("practice", "Ctrl+Shift+M", "Practise with something wrong with the machine…"),
            Command("connect", "", "Connect to a machine…"),
            Command("unlink", "", "Let go of the machine"),
            Command("fresh_board", "", "Make another: all steps once more, on a fresh board"),
            Command("start_again", "", "Start again from…"),
            Command("cut_again", "", "Cut something again, alone or deeper…"),
            Command("check_program", "Ctrl+Shift+O", "Check a program against this job…"),
            Command("run_import", "", "Run a program made elsewhere…"),
            Command("trial", "", "Write a small program to try the control with…"),
        ),
    ),
    (
        "Shop",
        (
            Command("settings", "Ctrl+,", "Shop settings: machine and unit…", True),
            Command("wood", "Ctrl+Shift+W", "The shop's woods, with what is known of them here…"),
            Command("offcuts", "Ctrl+Shift+F", "Offcuts on the shelf that would do…"),
            Command("keep_offcuts", "Ctrl+Alt+F", "Put the cut list's offcuts on the shelf"),
            Command("gauges", "", "Plates and sensors of the shop…"),
            Command("drawer", "Ctrl+Shift+D", "The tool drawer…"),
            Command("skim", "", "Skim the bed…"),
            Command("ready", "", "When it is ready, beside other jobs…"),
            Command("finish_steps", "Ctrl+Alt+Y", "Steps of the finish: what is done, what comes next…"),
            Command("quote", "", "Write a quotation…"),
            Command("shop_tins", "", "The shop's own tins…"),
        ),
    ),
    (
        "Log",
        (
            Command("diary", "Ctrl+Shift+J", "The diary of this job…"),
            Command("judge", "Ctrl+Alt+J", "How did it come out? Judge the piece…"),
            Command("result_photo", "", "Lay a photo of the finished piece over the plan…"),
            Command("lessons", "Ctrl+Shift+N", "Lessons of this shop…"),
            Command("due", "", "What is due, and handing over…"),
            Command("registers", "", "Registers of the shop: what it has, and what lapses when…"),
            Command("export_log", "", "Write the log's rows…"),
        ),
    ),
    (
        "Help",
        (
            Command("help", "F1", "This page explained, and all keys", True),
            Command("find", "Ctrl+F", "Find something to do…", True),
            Command("menu", "F10", "Menu", True),
        ),
    ),
)
COMMANDS = tuple(command for _, commands in GROUPS for command in commands)
STAGE_KEYS = "Ctrl+1 … Ctrl+9, Ctrl+0"
MORE = (
    (STAGE_KEYS, "The stages along the fence, Blank to Log"),
    ("Space", "Show or tick the next step"),
    ("hold Enter", "At the machine: whatever moves an axis or starts the spindle"),
    ("Esc", "While anything moves: pauses a program, stops all else. Else: leave what was begun"),
    ("B, W, L", "At the machine: back, working, Z ledger"),
    ("1 … 9", "At the machine, where a screen has several answers: to one of them"),
    ("hold S", "At the machine: stop, over the cable"),
    ("hold F, G, H", "At the machine, where hands want room: to load, to change the tool, to park"),
    ("hold M", "At the machine: jog by hand. Then arrows, Page up and down, held; P for the pace; Esc ends it"),
    ("U", "Paused: lift it out of the wood; then hold Enter: down and on"),
    ("−, +, F", "While it cuts: feed slower, faster, full"),
    ("[, ]", "While it cuts: spindle slower, faster"),
    ("1 … 5", "While it cuts: a remark by its key, kept with its time"),
    ("Tab, Shift+Tab", "To the next or last field"),
    ("wheel, Shift+drag", "On the bed: larger or smaller at the pointer; move what is seen"),
)
