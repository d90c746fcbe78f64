"""The codes of refusals, which end a run: what each means, and what to do. A part of the catalogue in `codes`."""

from __future__ import annotations

REFUSALS: dict[str, tuple[str, str]] = {
    "ambiguous": ("Several readers can read a file.", "Name the dialect with --dialect."),
    "another-move": ("The folder has another move.", "Name another folder for --out."),
    "bag-not-whole": ("A bag is not complete.", "Copy it again from where it was kept."),
    "csv": ("A table is not valid CSV.", "Save it as CSV (UTF-8) again."),
    "cannot-write": ("A folder cannot be made.", "Name another folder for --out."),
    "damaged": ("A file is damaged.", "Download the export again."),
    "empty-file": ("A file is empty.", "Download the export again."),
    "encrypted": ("A file is locked with a password.", "Unpack it, and hand in the folder."),
    "entity-declaration": (
        "An XML file declares entities, which New Burrow does not expand.",
        "If you trust the file, remove its DOCTYPE.",
    ),
    "exists": ("The new folder exists already.", "Name a new folder."),
    "file-in-use": (
        "A file that New Burrow did not write is in the way.",
        "Move it elsewhere.",
    ),
    "file-vanished": (
        "A file is no longer in the export.",
        "Hand in the export as it was for the draft.",
    ),
    "folder-in-use": ("A folder has other content.", "Name an empty or new folder."),
    "in-use": (
        "Another run of New Burrow works in the folder.",
        "Wait until it ends, or stop it.",
    ),
    "export-changed": (
        "An export changed while it was read.",
        "Run the command again when nothing writes to it any more.",
    ),
    "out-inside": (
        "The folder to write to is within what is read.",
        "Name a folder elsewhere.",
    ),
    "is-a-folder": ("A folder was named where a file is needed.", "Name a file in it."),
    "many-files": ("An export has too many files.", "Allow more with --limit files=NUMBER."),
    "missing-column": ("A table lacks a column.", "Add the column."),
    "no-answer": ("A question got no answer.", "Run the command again."),
    "no-dialect": (
        "No dialect that ships describes an export.",
        "Draft one with `newburrow dialects --draft-from`.",
    ),
    "saved-page": (
        "A web page was saved in place of an export.",
        "Log in to the old host and download the export again.",
    ),
    "no-export": ("A file is not an export that can be read.", "Hand in the export itself."),
    "no-such-item": ("No item matches.", "Name an item by its id."),
    "no-move-folder": ("A folder is not a move folder.", "Make one with `newburrow draft`."),
    "nothing-moves": (
        "No entry of the export would move.",
        "Change what the settings of move.toml choose, or hand in another export.",
    ),
    "no-new-name": ("An action needs a new name.", "Fill in new_name."),
    "no-server": ("No server answers.", "Start the server, or correct the address."),
    "no-such-file": ("A file or folder does not exist.", "Check the spelling of the path."),
    "no-such-folder": ("A folder does not exist.", "Check the spelling of the path."),
    "not-a-folder": ("A file was named where a folder is needed.", "Name a folder."),
    "not-mended": (
        "A file cannot be mended.",
        "Export the site again, or correct the file by hand.",
    ),
    "not-in-encoding": (
        "A file has bytes that mean nothing in its encoding.",
        "Export the site again in UTF-8, or run `newburrow mend` on it.",
    ),
    "not-moved": (
        "A move folder has no finished move of this version.",
        "Run `newburrow move FOLDER`.",
    ),
    "not-well-formed": ("A file is not well-formed.", "Run `newburrow mend` on it."),
    "nothing-to-draft": ("An export needs no dialect.", "Run `newburrow survey`."),
    "nothing-to-mend": ("A file is neither XML nor JSON.", "Hand in the export itself."),
    "outside-folder": ("A name leads out of its folder.", "Rename the file in the export."),
    "process-ended": (
        "A process of the run was ended from outside.",
        "Run it again with a smaller --jobs.",
    ),
    "several-items": ("Several items match.", "Name one by its id."),
    "template": ("A template of a host profile is wrong.", "Correct it (Jinja2)."),
    "too-large-text": ("A text is too large to be read.", "Remove it from the export."),
    "toml": ("A file is not valid TOML.", "Correct that line."),
    "two-answers": ("An old address has two answers.", "Remove one of the two lines."),
    "unknown-name": ("There is nothing of this name.", "Use one of the names in the message."),
    "slow-expression": (
        "An expression of a dialect takes too long.",
        "Write it without repetitions within repetitions.",
    ),
    "stalled": (
        "Nothing was read for a long time.",
        "Correct the dialect, or allow more with --limit seconds=NUMBER.",
    ),
    "unreadable-name": ("A name of a file is not UTF-8.", "Rename the file."),
    "unreadable": ("A file cannot be read.", "Check its permissions and its encoding."),
    "usage": ("The command line is wrong.", "See `newburrow COMMAND --help`."),
    "wrong-column": ("A table has an unknown column.", "Correct the name of the column."),
    "unsupported-archive": (
        "An archive is in a format that is not read.",
        "Unpack it, and hand in the folder.",
    ),
    "wrong-dialect": ("A dialect is for another format.", "Name another dialect."),
    "wrong-key": ("A file has an unknown key.", "Correct the name of the key."),
    "wrong-row": ("A row of a table is wrong.", "Correct the row."),
    "wrong-value": ("A value is not allowed.", "Use one of the values in the message."),
    "zip-bomb": (
        "An export unpacks to far too much.",
        "Allow more with --limit unpacked=SIZE if you trust it.",
    ),
}
