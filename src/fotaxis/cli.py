"""`fotaxis`: render and check shot files without a server or a database.

What reads and draws is imported where it is needed: help and faults of the command come at once.
"""

from __future__ import annotations

import argparse
import json
import sys
import warnings
from pathlib import Path
from typing import TYPE_CHECKING, Any

from fotaxis import __version__
from fotaxis.core.errors import FormatError, FotaxisError

if TYPE_CHECKING:
    from collections.abc import Mapping

    from fotaxis.core.scene.plan import Plan
    from fotaxis.formats.shot_file import ShotDocument

MOST_SIDE = 4000


def main(arguments: list[str] | None = None) -> int:
    """Exit code 0: done; 2: the file or a wish is wrong, with place and reason on standard error."""
    args = _parser().parse_args(arguments)
    if args.run is _reckon:
        return int(args.run(args))
    from fotaxis.formats import shot_file

    if args.run is None:
        print(json.dumps(shot_file.json_schema(), indent=2, ensure_ascii=False))
        return 0
    try:
        document = shot_file.read(_bytes(args.shot, shot_file.MAX_BYTES))
        return int(args.run(document, args))
    except FotaxisError as error:
        print(f"{args.shot}: {error}", file=sys.stderr)
    except OSError as error:
        print(f"{error.filename or args.shot}: {error.strerror or error}.", file=sys.stderr)
    return 2


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="fotaxis", description="Predict pictures from shot files.")
    parser.add_argument("--version", action="version", version=__version__)
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    render = commands.add_parser("render", help="write the predicted picture")
    render.add_argument("shot", type=Path, help="a shot file (.json)")
    render.add_argument("--out", type=Path, required=True, metavar="FILE", help=".exr (layers, linear) or .png (as shown)")
    render.add_argument(
        "--size", metavar="WxH", help="largest width and height in pixels (default 640x800)", default="640x800"
    )
    render.set_defaults(run=_render)
    check = commands.add_parser("check", help="check a shot file and say what it holds")
    check.add_argument("shot", type=Path, help="a shot file (.json)")
    check.add_argument("--readings", action="store_true", help="draw the picture too and say what its readings read")
    check.set_defaults(run=_check)
    balance = commands.add_parser("balance", help="say which powers meet the wishes of a shot file")
    balance.add_argument("shot", type=Path, help="a shot file (.json) with wishes")
    balance.add_argument("--json", action="store_true", help="as JSON: powers, wishes, what cannot be met")
    balance.add_argument("--out", type=Path, metavar="FILE", help="write the shot with these powers (.json)")
    balance.set_defaults(run=_balance)
    place = commands.add_parser(
        "place", help="say what stands where for the lines and highlights that a shot file wishes for"
    )
    place.add_argument("shot", type=Path, help="a shot file (.json) with wishes about lines and highlights")
    place.add_argument(
        "--json", action="store_true", help="as JSON: all ways for each, the best first, in centimetres and degrees"
    )
    place.add_argument("--out", type=Path, metavar="FILE", help="write the shot with the best of each (.json)")
    place.set_defaults(run=_place)
    captures = commands.add_parser(
        "captures", help="say which captures a shot file holds, in which order, and which it asks for"
    )
    captures.add_argument("shot", type=Path, help="a shot file (.json)")
    captures.add_argument("--json", action="store_true", help="as JSON: captures, shooting list, what the set asks for")
    captures.add_argument(
        "--school", choices=["one frame", "one per part"], help="what it asks for: in one frame, or per part"
    )
    captures.add_argument("--out", type=Path, metavar="FILE", help="write the shot with the captures it asks for (.json)")
    captures.set_defaults(run=_captures)
    merge = commands.add_parser("merge", help="merge real frames of a shot file's captures")
    merge.add_argument("shot", type=Path, help="a shot file (.json) with captures")
    merge.add_argument(
        "frames",
        nargs="+",
        metavar="FRAME",
        help="JPEG, PNG or TIFF in the captures' order, or CAPTURE=FILE by the capture's key",
    )
    merge.add_argument(
        "--out", type=Path, required=True, metavar="FILE", help=".tif, .png (16 bits), .jpg, .ora, .layers.tif or .exr"
    )
    merge.set_defaults(run=_merge)
    reckon = commands.add_parser("reckon", help="the arithmetic of the set: stops, depth of field, mired, circuits, ...")
    reckon.add_argument("name", nargs="?", help="a calculation, as --list names them")
    reckon.add_argument("values", nargs="*", metavar="KEY=VALUE", help="what is known, as distance=120cm; KEY=? asks for it")
    reckon.add_argument("--list", action="store_true", help="list the calculations; with a name: what it asks")
    reckon.add_argument("--how", action="store_true", help="say its formula, limits and source too")
    reckon.add_argument("--inches", action="store_true", help="lengths in inches and feet")
    reckon.add_argument("--shot", type=Path, metavar="SHOT.json", help="begin with the numbers of a shot file")
    reckon.add_argument("--json", action="store_true", help="as JSON, numbers in SI")
    reckon.set_defaults(run=_reckon)
    schema = commands.add_parser("schema", help="print the JSON Schema of shot files")
    schema.set_defaults(run=None)
    return parser


def _bytes(path: Path, most: int) -> bytes:
    with path.open("rb") as file:
        return file.read(most + 1)


def _long_side(size: str, ratio: float) -> int:
    """Long side of the largest picture of a ratio inside WxH."""
    try:
        width, height = (int(part) for part in size.lower().split("x"))
    except ValueError:
        raise FormatError(f"size is {size!r}; write WIDTHxHEIGHT, as 640x800.") from None
    if not (16 <= width <= MOST_SIDE and 16 <= height <= MOST_SIDE):
        raise FormatError(f"size is {size}; each side must be 16 to {MOST_SIDE} pixels.")
    return min(width, round(height * ratio)) if ratio >= 1 else min(height, round(width / ratio))


def _render(document: ShotDocument, args: argparse.Namespace) -> int:
    from fotaxis.formats import picture_files
    from fotaxis.services.pictures import Pictures

    ending = args.out.suffix.lower()
    if ending not in (".exr", ".png"):
        raise FormatError(f"the picture's name ends in {ending or 'nothing'!r}; it must end in .exr or .png.")
    plan = document.plan()
    prediction = Pictures().fine(plan, long_side=_long_side(args.size, plan.camera.crop_ratio))
    if ending == ".png":
        args.out.write_bytes(picture_files.png(prediction.developed()))
    else:
        picture_files.write_exr(args.out, keys=prediction.layers.keys, pictures=prediction.scaled_layers())
    width, height = prediction.layers.size
    print(f"{args.out}: {width} x {height} pixels, {prediction.layers.lost_share:.2%} of the light cut off in tracing")
    return 0


def _balance(document: ShotDocument, args: argparse.Namespace) -> int:
    from fotaxis.core.camera.camera import PREVIEW_SIDE
    from fotaxis.formats import shot_file
    from fotaxis.services import wishes
    from fotaxis.services.changes import applied
    from fotaxis.services.pictures import Pictures

    plan, readings, named, pictures = document.plan(), document.named_readings(), document.named_wishes(), Pictures()
    if not named:
        raise FormatError("it holds no wishes: say what its picture must show, on the bench or in its list `wishes`.")
    pictures.fine(plan, long_side=PREVIEW_SIDE)
    answer = wishes.balanced(plan, document.held, named, lambda now: pictures.named(now, readings))
    after = answer.plan if answer else plan
    names = {reading.key: reading.name for reading in readings}
    words = wishes.balance_words(plan, answer, names) if answer else []
    whole = wishes.whole_for(named, lambda: pictures.whole(after))
    judged = wishes.judged_wishes(after, named, readings, pictures.named(after, readings), whole)
    powers = dict(answer.balance.powers) if answer else {}
    if args.out:
        changes = wishes.power_changes(answer.balance) if answer else []
        args.out.write_bytes(shot_file.write(shot_file.from_raw(applied(document.model_dump(mode="json"), changes))))
    if args.json:
        told = {"powers": powers, "words": words, "wishes": [one.told for one in judged]}
        print(json.dumps(told, indent=2, ensure_ascii=False))
        return 0
    for said in words or ["Nothing to set: no wish is about a level, or all are met."]:
        print(f"  {said}")
    for one in judged:
        print(f"  {one.judged.state}: {one.about}, {one.wish.wish.words}: {one.judged.words}")
    return 0


def _captures(document: ShotDocument, args: argparse.Namespace) -> int:
    from fotaxis.formats import shot_file
    from fotaxis.formats.shot_codec import JsonShots
    from fotaxis.services.captures.needed import ONE_FRAME, needed
    from fotaxis.services.captures.shooting import shooting_list
    from fotaxis.services.captures.words import each_in_words, joining_words
    from fotaxis.services.pictures import Pictures

    codec, raw = JsonShots(), document.model_dump(mode="json")
    asked = needed(raw, codec, Pictures(), school=args.school or document.finish.school or ONE_FRAME)
    listed = shooting_list(raw, codec)
    if args.out:
        with_them = {**raw, "captures": [*raw["captures"], *asked.captures]}
        args.out.write_bytes(shot_file.write(shot_file.from_raw(with_them)))
    words = each_in_words(raw, raw["captures"])
    if args.json:
        told = {
            "captures": [{"key": one["key"], "name": one["name"], "words": said, "joined": joining_words(one)}
                         for one, said in zip(raw["captures"], words, strict=True)],
            "list": [{"step": row.key, "name": row.name, "doing": row.doing, "exposure": row.exposure, "care": row.care,
                      "minutes": row.minutes} for row in listed.rows],
            "words": listed.words,
            "asked for": {"school": asked.school, "words": asked.words, "reasons": asked.reasons,
                          "captures": [{"name": one["name"], "words": said} for one, said in
                                       zip(asked.captures, each_in_words(raw, asked.captures), strict=True)]},
        }  # fmt: skip
        print(json.dumps(told, indent=2, ensure_ascii=False))
        return 0
    for one, said in zip(raw["captures"], words, strict=True):
        print(f"  {one['key']}: {one['name']}. {said}; {joining_words(one)}")
    print(asked.words)
    for reason in asked.reasons:
        print(f"  {reason}")
    for one, said in zip(asked.captures, each_in_words(raw, asked.captures), strict=True):
        print(f"  would be: {one['name']}. {said}")
    if raw["captures"]:
        print("To be shot:")
    for row in listed.rows if raw["captures"] else ():
        print(f"  {row.number}. {row.name} ({row.exposure}, {row.minutes:.1f} min)")
        for said in (*row.doing, *row.care):
            print(f"       {said}")
    return 0


def _merge(document: ShotDocument, args: argparse.Namespace) -> int:
    import tempfile

    from fotaxis.formats import photo
    from fotaxis.formats.merge_files import JoinedFiles
    from fotaxis.formats.shot_codec import JsonShots
    from fotaxis.services.captures.composite import shown_captures
    from fotaxis.services.captures.merges import MEDIA, Candidate, belonging, merge_frames, written
    from fotaxis.services.pictures import MERGING, Pictures

    raw, files = document.model_dump(mode="json"), JoinedFiles()
    kind = args.out.name.lower().removeprefix(args.out.name.lower().split(".")[0] + ".")
    if kind not in MEDIA:
        raise FormatError(f"the merged picture's name ends in {kind!r}; it must end in one of {', '.join(MEDIA)}.")
    captures = shown_captures(raw)
    if not captures:
        raise FormatError(
            "it holds no captures: make them on the bench, or with `fotaxis captures SHOT.json --out NEW.json`."
        )
    given: dict[str, tuple[Path, bytes]] = {}
    candidates = []
    by_key = {one["key"]: one for one in captures}
    for i, text in enumerate(args.frames):
        key, _, path = text.rpartition("=")
        key = key or (captures[i]["key"] if i < len(captures) else "")
        if key not in by_key:
            raise FormatError(f"{text[:80]}: there are {len(captures)} captures: {', '.join(by_key)}.")
        data = _bytes(Path(path), photo.MAX_BYTES)
        read = photo.read(data)
        given[key] = Path(path), data
        candidates.append(
            Candidate(
                capture=by_key[key], name=Path(path).name, width=read.width, height=read.height, exposure=read.exposure
            )
        )
    kept, words = belonging(candidates)
    with tempfile.TemporaryDirectory(prefix="fotaxis-merge-") as folder:
        ratio = document.camera.crop_width / document.camera.crop_height
        pixels = {one.capture["key"]: files.pixels(given[one.capture["key"]][1], Path(folder), ratio) for one in kept}
        made, real = merge_frames(raw, pixels, JsonShots(), Pictures(MERGING))
        args.out.write_bytes(written(kind, made, real, files, retouch=raw["retouch"]))
    height, width = made.picture.shape[:2]
    print(f"{args.out}: {width} x {height} pixels of {len(real)} frames")
    for said in (*words, *made.words):
        print(f"  {said}")
    return 0


def _place(document: ShotDocument, args: argparse.Namespace) -> int:
    from fotaxis.core.errors import NoSolution
    from fotaxis.formats import shot_file
    from fotaxis.formats.shot_codec import JsonShots
    from fotaxis.services.changes import applied
    from fotaxis.services.pictures import Pictures
    from fotaxis.services.proposals import asked_for, proposals, taken

    wanted = [one for one in document.named_wishes() if one.kind in ("place", "cover")]
    if not wanted:
        raise FormatError(
            "it holds no wish about where a line or a highlight lies: add one, on the bench or in its list `wishes`."
        )
    pictures, codec = Pictures(), JsonShots()
    told: list[dict[str, Any]] = []
    raw = document.model_dump(mode="json")
    for wish in wanted:
        asked = asked_for(pictures, codec, raw, wish)
        try:
            ways = proposals(asked)
        except NoSolution as error:
            told.append({"wish": wish.key, "words": f"nothing can be that highlight: {error}", "ways": []})
            continue
        best = ways[0]
        told.append({
            "wish": wish.key, "title": best.title, "words": " ".join(best.reasons), **best.measures,
            "ways": [{"title": one.title, "reasons": list(one.reasons), **one.measures} for one in ways],
        })  # fmt: skip
        raw = codec.check(applied(raw, taken(asked, best)))
    if args.out:
        args.out.write_bytes(shot_file.write(shot_file.from_raw(raw)))
    if args.json:
        print(json.dumps(told, indent=2, ensure_ascii=False))
        return 0
    for one in told:
        title = f"{one['title']}. " if "title" in one else ""
        print(f"  {one['wish']}: {title}{one['words']}")
    return 0


def _reckon(args: argparse.Namespace) -> int:
    from fotaxis.core.reckoner.asked import asked, calculation_of, described
    from fotaxis.core.reckoner.calculations import CALCULATIONS

    try:
        if args.name is None:
            if not args.list:
                raise FormatError("say which calculation: `fotaxis reckon --list` lists them.")
            if args.json:
                print(json.dumps(described(), indent=2, ensure_ascii=False))
            for one in () if args.json else CALCULATIONS:
                print(f"  {one.key:<16} {one.name}. {one.words}")
            return 0
        calculation = calculation_of(args.name)
        if args.list:
            _tell_fields(args.name)
            return 0
        question: dict[str, Any] = {"key": calculation.key, "inches": args.inches, "shot": _numbers_of(args.shot)}
        told = asked(question | _asked_for(args.values, calculation.unknowns))
    except FotaxisError as error:
        print(f"{args.name or 'reckon'}: {error}", file=sys.stderr)
        return 2
    except FileNotFoundError as error:
        print(f"{error.filename}: {error.strerror}.", file=sys.stderr)
        return 2
    if told["problem"]:
        print(f"{args.name}: {told['problem']}", file=sys.stderr)
        return 2
    if args.json:
        print(json.dumps(told, indent=2, ensure_ascii=False))
        return 0
    first, *others = told["gives"]
    print(f"{first['words']}: {first['finer'] or first['text']}")
    for one in others:
        print(f"  {one['words']}: {one['finer'] or one['text']}")
    words = {one.name: one.words for one in calculation.asks}
    print("  with " + ", ".join(f"{words[name]} {text}" for name, text in told["reads"].items() if text))
    for said in (*told["says"], *told["cautions"]):
        print(f"  {said}")
    if args.how:
        print(f"  {calculation.formula}\n  Limits: {calculation.limits}\n  Source: {calculation.source}.")
    return 0


def _asked_for(values: list[str], unknowns: Mapping[str, object]) -> dict[str, Any]:
    """What is typed after a calculation: texts, and the unknown: the one with a question mark, else the first that is not told."""
    texts: dict[str, str] = {}
    unknown = ""
    for one in values:
        name, sign, text = one.partition("=")
        if not sign:
            raise FormatError(f"{one[:40]!r}: write KEY=VALUE, as distance=120cm.")
        if text.strip() == "?":
            unknown = name
        else:
            texts[name] = text
    return {"texts": texts, "unknown": unknown or next((name for name in unknowns if name not in texts), "")}


def _numbers_of(path: Path | None) -> Mapping[str, float | str]:
    if path is None:
        return {}
    from fotaxis.formats import shot_file
    from fotaxis.services.reckoning import shot_numbers

    document = shot_file.read(_bytes(path, shot_file.MAX_BYTES))
    return shot_numbers(document.plan(), document.model_dump(mode="json"))


def _tell_fields(name: str) -> None:
    from fotaxis.core.reckoner.asked import calculation_of

    calculation = calculation_of(name)
    print(f"{calculation.name}. {calculation.words}")
    for one in calculation.asks:
        asks = ", may be asked for" if one.name in calculation.unknowns else ""
        print(f"  {one.name}={one.usual!r}  {one.words}{asks}; written as {one.unit.example}")


def _check(document: ShotDocument, args: argparse.Namespace) -> int:
    from fotaxis.core.camera.nominal_scales import f_number_name, shutter_name
    from fotaxis.core.errors import DomainError
    from fotaxis.core.render.layers import layer_gains
    from fotaxis.core.scene.product import described

    plan = document.plan()
    e = plan.exposure
    print(f"{args.shot}: good, shot file version {document.version}")
    print(f"  {document.name}: {len(plan.lights)} lights, {len(plan.cards)} cards")
    print(f"  ISO {e.iso:g}, {shutter_name(e.shutter_s)}, {f_number_name(e.f_number)}")
    for subject in plan.products:
        print(f"  {described(subject)}")
    try:
        layer_gains(plan)
    except DomainError as fault:
        print(f"  {fault}")
        return 0
    if args.readings:
        _print_readings(document, plan)
    return 0


def _print_readings(document: ShotDocument, plan: Plan) -> None:
    """What meter, background, reliefs and the picture's readings say."""
    from fotaxis.core.camera.camera import PREVIEW_SIDE, picture_size
    from fotaxis.core.camera.nominal_scales import f_number_with_tenths
    from fotaxis.services.exposure_reading import read_exposure
    from fotaxis.services.pictures import Pictures
    from fotaxis.services.readings import background_words, reading_words, relief_words, sides_words

    reading = read_exposure(plan)
    metered = f_number_with_tenths(reading.metered_f_number) if reading.metered_f_number else "dark"
    over = ""
    if reading.over_stops is not None:
        over = f", planned {abs(reading.over_stops):.1f} stops {'over' if reading.over_stops > 0 else 'under'} it"
    print(f"  metered {metered}{over}")
    print(f"  room light alone: {reading.black.text}")
    for subject in plan.products:
        for name, words in relief_words(plan, subject).items():
            print(f"  {subject.name}, {name}: {words}")
    if plan.background:
        print(f"  {background_words(plan)}")
    width, height = picture_size(ratio=plan.camera.crop_ratio, long_side=PREVIEW_SIDE)
    pictures = Pictures()
    pictures.fine(plan, long_side=max(width, height))
    for words in pictures.read(plan, document.line(plan)).words:
        print(f"  reading line: {words}")
    named = document.named_readings()
    values = pictures.named(plan, named)
    for one in named:
        print(f"  {one.name}: {reading_words(values[one.key])}")
    if sides := sides_words(named, values):
        print(f"  {sides}")


if __name__ == "__main__":
    warnings.simplefilter("ignore")
    sys.exit(main())
