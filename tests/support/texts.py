"""Texts as a person reads them."""


def spaced(text: str) -> str:
    """With plain spaces in place of thin, narrow and unbreakable ones."""
    return text.replace("\u202f", " ").replace("\u2009", " ").replace("\u00a0", " ")
