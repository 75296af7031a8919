"""What is wrong with a value, in a photographer's words: never a pattern, a class name or a program's error."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

KEY_PATTERN = r"^[a-z0-9][a-z0-9-]{0,39}$"
PATTERNS = {
    KEY_PATTERN: "a key is made of small letters, digits and hyphens, begins with a letter or digit, and has at most 40",
    r"^#[0-9a-f]{6}$": "a colour is written as # and six of the digits 0 to 9 and a to f",
}
PLAIN = {
    "missing": "this must be given",
    "extra_forbidden": "this name is not known here; check its spelling",
    "string_type": "this must be text, in quotation marks",
    "bool_type": "this must be true or false",
    "bool_parsing": "this must be true or false",
    "int_type": "this must be a whole number",
    "int_parsing": "this must be a whole number",
    "int_from_float": "this must be a whole number",
    "int_parsing_size": "this number is far too large",
    "float_type": "this must be a number",
    "float_parsing": "this must be a number",
    "finite_number": "this must be a number that can be measured",
    "list_type": "this must be a list",
    "tuple_type": "this must be a list",
    "dict_type": "this must be a group of values",
    "model_type": "this must be a group of values",
    "model_attributes_type": "this must be a group of values",
    "none_required": "this must be left empty",
    "uuid_parsing": "this is not an address that exists",
    "uuid_type": "this is not an address that exists",
    "json_invalid": "this could not be read: a bracket, comma or quotation mark is missing or too many",
    "json_type": "this could not be read as text",
    "union_tag_not_found": "its kind must be given",
    "string_unicode": "this text holds characters that cannot be kept",
    "string_sub_type": "this must be text, in quotation marks",
    "recursion_loop": "this is nested too deeply",
}


def fault_words(fault: Mapping[str, Any]) -> str:
    """One fault that pydantic found, as words that say what is wrong and what would be right, without an end stop."""
    kind, given = str(fault["type"]), dict(fault.get("ctx") or {})
    if kind in PLAIN:
        return PLAIN[kind]
    if kind == "value_error":
        words = str(fault["msg"]).removeprefix("Value error, ")
        return (words[:1].lower() + words[1:]).rstrip(".") or "this value will not do"
    if kind == "string_pattern_mismatch":
        return PATTERNS.get(str(given.get("pattern")), "this text has characters that are not possible here")
    if kind in ("literal_error", "enum", "union_tag_invalid"):
        expected = str(given.get("expected") or given.get("expected_tags") or "").replace("'", "").replace('"', "")
        return f"this must be one of: {expected}"
    for begin, words in (
        ("greater_than_equal", "at least {ge:g}"), ("greater_than", "more than {gt:g}"),
        ("less_than_equal", "at most {le:g}"), ("less_than", "less than {lt:g}"),
    ):  # fmt: skip
        if kind == begin:
            return "this must be " + words.format(**given)
    if kind == "string_too_long":
        return f"this text is too long; at most {given['max_length']} characters"
    if kind == "string_too_short":
        return f"this text is too short; at least {_count(given['min_length'], 'character')}"
    if kind == "too_long":
        return f"these are too many; at most {given['max_length']}"
    if kind == "too_short":
        return f"these are too few; at least {given['min_length']}"
    if kind == "multiple_of":
        return f"this must be a multiple of {given['multiple_of']:g}"
    return "this value cannot be used here"


def _count(number: int, what: str) -> str:
    return f"{number} {what}{'' if number == 1 else 's'}"
