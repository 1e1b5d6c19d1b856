"""The command line: analyse a take, play a drill, write the schemas."""

from __future__ import annotations

import argparse
import json
import os
import sys
import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from fortimetra.batch import add_arguments as add_batch_arguments
from fortimetra.batch import run as run_batch
from fortimetra.errors import FortimetraError

if TYPE_CHECKING:
    from fortimetra.pipeline import MeasuredTake


def main(arguments: Sequence[str] | None = None) -> int:
    """Exit status 0 with a result; 1 where a batch could not measure all; 2 with one line on standard error for input
    that cannot be used.
    """
    options = _parser().parse_args(arguments)
    run: Callable[[argparse.Namespace], int | None] = options.run
    try:
        return run(options) or 0
    except FortimetraError as error:
        print(f"fortimetra: error: {error.detail}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        # The reader went away; that is not an error of ours.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except OSError as error:
        name = f"{error.filename}: " if error.filename else ""
        print(f"fortimetra: error: {name}{error.strerror or error}", file=sys.stderr)
        return 2


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="fortimetra", description="Measures guitar practice recordings for clean execution."
    )
    commands = parser.add_subparsers(required=True, metavar="COMMAND")

    analyse = commands.add_parser("analyse", help="measure a take")
    analyse.add_argument("take", type=Path, metavar="TAKE")
    analyse.add_argument("--drill", type=Path, help="what was asked; without it notes are listed and nothing is judged")
    analyse.add_argument("--click", type=Path)
    analyse.add_argument("--setup", type=Path)
    analyse.add_argument("--guitar", type=Path, help="the guitar it was played on: tuning, capo, A4, scale")
    analyse.add_argument("--write-setup", type=Path, help="of a set-up take: write what later takes are read against")
    analyse.add_argument("--out", type=Path, help="write the result here instead of to standard output")
    analyse.add_argument("--contour", type=Path, help="write the pitch contour as CSV")
    analyse.add_argument("--jams", type=Path, help="write notes and contour as JAMS")
    analyse.add_argument("--progress", action="store_true", help="stage and fraction on standard error")
    analyse.set_defaults(run=_analyse)

    batch = commands.add_parser("batch", help="measure many takes, and one table of them all")
    add_batch_arguments(batch)
    batch.set_defaults(run=run_batch)

    play = commands.add_parser("play", help="let the simulated student play a drill (invented data)")
    play.add_argument("drill", type=Path, metavar="DRILL")
    play.add_argument(
        "--faults", type=Path, help="what the student does wrong; without it the drill is played as asked"
    )
    play.add_argument("--out", type=Path, required=True, help="WAV or FLAC file")
    play.add_argument("--truth", type=Path)
    play.set_defaults(run=_play)

    convert = commands.add_parser("convert", help="a drill from one format to another; what is not kept is said")
    convert.add_argument("source", type=Path, metavar="IN", help=".json, .musicxml, .mxl, .xml, .mid")
    convert.add_argument("out", type=Path, metavar="OUT", help=".json, .musicxml, .mid, .txt")
    convert.set_defaults(run=_convert)

    schemas = commands.add_parser("schemas", help="write the JSON Schemas of all formats")
    schemas.add_argument("folder", type=Path)
    schemas.set_defaults(run=_schemas)
    drills = commands.add_parser("library", help="write the page of the drills a studio begins with")
    drills.add_argument("page", type=Path)
    drills.set_defaults(run=_library)
    settings = commands.add_parser("settings", help="write the page of all settings of the measuring")
    settings.add_argument("page", type=Path)
    settings.set_defaults(run=_settings)
    return parser


def _analyse(options: argparse.Namespace) -> None:
    from fortimetra.formats.contour_csv import contour_csv
    from fortimetra.formats.curve import curve_of
    from fortimetra.model.context import Click, Setup
    from fortimetra.model.drill import Drill
    from fortimetra.model.guitar import Guitar
    from fortimetra.pipeline import measure_take

    def tell(stage: str, fraction: float) -> None:
        print(f"{stage} {fraction:.2f}", file=sys.stderr, flush=True)

    found = measure_take(
        options.take,
        drill=Drill.read(options.drill) if options.drill else None,
        click=Click.read(options.click) if options.click else None,
        setup=Setup.read(options.setup) if options.setup else None,
        guitar=Guitar.read(options.guitar) if options.guitar else None,
        progress=tell if options.progress else None,
    )
    if options.write_setup:
        write_atomically(options.write_setup, _setup_text(found).encode())
    if options.contour:
        write_atomically(options.contour, contour_csv(found.analysis, curve_of(found)).encode())
    if options.jams:
        from fortimetra.formats.jams_file import jams_text

        write_atomically(options.jams, jams_text(found.analysis, curve_of(found)).encode())
    text = json.dumps(found.analysis.model_dump(mode="json", by_alias=True), indent=1, ensure_ascii=False) + "\n"
    if options.out:
        write_atomically(options.out, text.encode())
    else:
        sys.stdout.write(text)
        sys.stdout.flush()


def _setup_text(found: MeasuredTake) -> str:
    from fortimetra.errors import DrillError
    from fortimetra.judge.set_up import setup_of

    setup = setup_of(found.analysis, drill=found.drill) if found.drill else None
    if setup is None:
        raise DrillError("drill_invalid", "--write-setup: this is no set-up take; give a drill of the family set_up.")
    return setup.model_dump_json(indent=1) + "\n"


def _play(options: argparse.Namespace) -> None:
    import soundfile

    from fortimetra.errors import DrillError
    from fortimetra.model.drill import Drill
    from fortimetra.player.faults import Faults
    from fortimetra.player.rendering import render

    kind = {".wav": "WAV", ".flac": "FLAC"}.get(options.out.suffix.lower())
    if kind is None:
        raise DrillError("format_unknown", f"{options.out.name}: name a .wav or .flac file.")
    samples, truth = render(
        Drill.read(options.drill), Faults.read(options.faults) if options.faults else Faults.model_validate({})
    )

    def write(path: Path) -> None:
        soundfile.write(path, samples, truth.sample_rate_hz, format=kind, subtype="PCM_24")

    _replace(options.out, write)
    if options.truth:
        write_atomically(options.truth, (truth.model_dump_json(indent=1) + "\n").encode())


def _convert(options: argparse.Namespace) -> None:
    from fortimetra.errors import DrillError
    from fortimetra.formats.midi import drill_to_midi
    from fortimetra.formats.musicxml_out import drill_to_musicxml
    from fortimetra.formats.text_tab import text_tab
    from fortimetra.model.drill import Drill

    wanted = options.out.suffix.lower()
    if wanted not in {".json", ".musicxml", ".xml", ".mid", ".midi", ".txt"}:
        raise DrillError("format_unknown", f"{options.out.name}: name a .json, .musicxml, .mid or .txt file.")
    lost: tuple[str, ...] = ()
    if options.source.suffix.lower() == ".json":
        drill = Drill.read(options.source)
    else:
        content = options.source.read_bytes()
        if content.startswith(b"MThd"):
            from fortimetra.formats.midi_in import read_midi as read
        else:
            from fortimetra.formats.musicxml_in import read_musicxml as read
        found = read(content)
        drill, lost = found.drill, found.lost
        if found.proposed:
            lost = (*lost, f"Strings and frets of {len(found.proposed)} places are a proposal.")
    if wanted in {".mid", ".midi"}:
        written = drill_to_midi(drill)
        out, lost = written.content, (*lost, *written.lost)
    elif wanted in {".musicxml", ".xml"}:
        out = drill_to_musicxml(drill)
    elif wanted == ".txt":
        out = text_tab(drill).encode()
    else:
        out = (drill.model_dump_json(indent=1, by_alias=True) + "\n").encode()
    write_atomically(options.out, out)
    for line in lost:
        print(f"fortimetra: note: {line}", file=sys.stderr)


def _library(options: argparse.Namespace) -> None:
    from fortimetra.formats.library_page import library_page

    write_atomically(options.page, library_page().encode())


def _settings(options: argparse.Namespace) -> None:
    from fortimetra.formats.settings_page import settings_page

    write_atomically(options.page, settings_page().encode())


def _schemas(options: argparse.Namespace) -> None:
    from fortimetra.formats.schemas import schemas

    options.folder.mkdir(parents=True, exist_ok=True)
    for name, text in schemas().items():
        write_atomically(options.folder / name, text.encode())


def write_atomically(path: Path, content: bytes) -> None:
    """Write a file so that its name never stands for half of it."""
    _replace(path, lambda temporary: _write(temporary, content))


def _write(path: Path, content: bytes) -> None:
    path.write_bytes(content)


def _replace(path: Path, write: Callable[[Path], None]) -> None:
    handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
    os.close(handle)
    temporary = Path(name)
    try:
        write(temporary)
        mask = os.umask(0)
        os.umask(mask)
        temporary.chmod(0o666 & ~mask)
        temporary.replace(path)
    except BaseException:
        temporary.unlink(missing_ok=True)
        raise


if __name__ == "__main__":
    sys.exit(main())
