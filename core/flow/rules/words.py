"""How a reason goes on in the middle of a sentence."""


def lower(words: str) -> str:
    return words[:1].lower() + words[1:]
