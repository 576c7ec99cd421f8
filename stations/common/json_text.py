"""JSON that comes from outside: read strictly, and refused in words."""

import json

from stations.common.refusals import Refused


def read_json(text: str):
    """The value, with numbers that are finite and text that can be stored. Raises Refused for the field `file`."""
    try:
        found = json.loads(text, parse_constant=_no_number)
        json.dumps(found, ensure_ascii=False).encode()
    except json.JSONDecodeError as problem:
        raise Refused(f"This is no JSON: line {problem.lineno}, {problem.msg}.", "file") from problem
    except UnicodeEncodeError as problem:
        raise Refused(
            "There is half a character in it (a lone surrogate): save the file again as UTF-8.", "file"
        ) from problem
    except (RecursionError, ValueError) as problem:
        raise Refused("This JSON is nested too deep, or a number in it is too long or none.", "file") from problem
    return found


def _no_number(word: str):
    raise ValueError(f"{word} is no number")
