"""Addresses on the two-wire bus, 7 bits, as they are typed and shown: hexadecimal and decimal."""

HIGHEST = 127


def address_words(address: int | None) -> str:
    """An address in both ways, `0x44 (68)`; nothing for none."""
    return "" if address is None else f"0x{address:02x} ({address})"


def typed_number(text: str) -> int:
    """What was typed as `0x44`, `44h` or `68`, of whatever size; `ValueError` if no number."""
    word = text.strip().lower()
    if word.startswith("0x"):
        return int(word, 16)
    return int(word[:-1], 16) if word.endswith("h") else int(word)


def read_address(text: str) -> int | None:
    """An address typed in either way, or in both, `0x44 (68)`; None for nothing.

    Raises `ValueError` where it is no number of 7 bits, or the two ways do not agree.
    """
    first, _, second = text.strip().removesuffix(")").partition("(")
    if not first.strip():
        return None
    number = typed_number(first)
    if not 0 <= number <= HIGHEST or (second and typed_number(second) != number):
        raise ValueError(text)
    return number
