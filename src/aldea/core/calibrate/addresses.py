"""Digital sensors by their addresses: what the plan expects on a line, what a scan of it found.

Two-wire bus: 7-bit addresses. Single wire: codes of 64 bits, family first, whose last byte is the
checksum x^8 + x^5 + x^4 + 1 over the seven before it (reflected, start 0).
"""

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from aldea.core.base.addresses import typed_number
from aldea.core.base.errors import CalibrationError

Verdict = Literal["found", "missing", "not in the plan", "duplicate"]
RESERVED = (*range(0x08), *range(0x78, 0x80))


@dataclass(frozen=True, slots=True, kw_only=True)
class Listed:
    """One address: who has it in the plan, and what the scan says."""

    address: str
    names: tuple[str, ...]
    verdict: Verdict


def bus_address(text: str) -> int:
    """A 7-bit address as people write it: 0x44, 44h, or 68 in plain decimal."""
    try:
        value = typed_number(text)
    except ValueError:
        value = -1
    if not 0 <= value <= 127:
        fix = ""
        if 128 <= value <= 255:
            fix = f"With the read/write bit? Then it is 0x{value >> 1:02x}."
        raise CalibrationError(
            "scan", got=repr(text), allowed="addresses of 7 bits, 0x08 to 0x77", fix=fix
        )
    return value


def listed_bus(expected: Sequence[tuple[int, str]], addresses: Sequence[int]) -> tuple[Listed, ...]:
    """Every address of the plan and of the scan, in order."""
    names: dict[int, list[str]] = {}
    for address, name in expected:
        names.setdefault(address, []).append(name)
    return tuple(
        Listed(
            address=f"0x{address:02x}",
            names=tuple(names.get(address, ())),
            verdict="duplicate"
            if len(names.get(address, ())) > 1
            else "not in the plan"
            if address not in names
            else "found"
            if address in addresses
            else "missing",
        )
        for address in sorted({*names, *addresses})
    )


def checksum(code: str) -> int:
    """Checksum of the first seven bytes of a code, 14 or 16 hexadecimal digits."""
    if not re.fullmatch(r"([0-9a-f]{2}){7,8}", code.lower()):
        raise CalibrationError("codes", got=repr(code)[:40], allowed="14 or 16 hexadecimal digits")
    value = 0
    for byte in bytes.fromhex(code)[:7]:
        value ^= byte
        for _ in range(8):
            value = value >> 1 ^ 0x8C if value & 1 else value >> 1
    return value


def single_wire_code(text: str) -> str:
    """A code as 16 hexadecimal digits; refused where its checksum does not fit."""
    code = re.sub(r"[\s:.\-]", "", text).lower()
    if not re.fullmatch(r"[0-9a-f]{16}", code):
        raise CalibrationError(
            "codes", got=repr(text), allowed="16 hexadecimal digits", fix="Copy it whole."
        )
    if code == "0" * 16:
        raise CalibrationError(
            "codes", got="all zeros", allowed="a code", fix="The data wire is held at 0 V."
        )
    wanted = checksum(code)
    if int(code[14:], 16) != wanted:
        raise CalibrationError(
            "codes",
            got=f"{code}, checksum {code[14:]}",
            allowed=f"a code whose checksum fits ({wanted:02x})",
            fix="Read it again: a long cable or a missing pull-up garbles it.",
        )
    return code


def listed_codes(expected: Sequence[tuple[str, str]], codes: Sequence[str]) -> tuple[Listed, ...]:
    """Every code of the plan (code, probe) and of the scan; a probe without a code is missing."""
    twice = {code for code, n in Counter(code for code, _ in expected if code).items() if n > 1}
    rows = [
        Listed(
            address=code or "no code yet",
            names=(name,),
            verdict="duplicate" if code in twice else "found" if code in codes else "missing",
        )
        for code, name in expected
    ]
    known = {code for code, _ in expected}
    rows += [
        Listed(address=code, names=(), verdict="not in the plan")
        for code in dict.fromkeys(codes)
        if code not in known
    ]
    return tuple(rows)
