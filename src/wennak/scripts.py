"""Superscripts and subscripts in the characters that Unicode has for them.

A raised 1 behind 12.5 is the mark of a note, and a raised -3 behind 10 an exponent: as plain characters they
would say 12.51 and 10-3.
"""

from __future__ import annotations

from collections.abc import Container, Sequence

_SCRIPTS = {
    "sup": dict(
        zip(
            "0123456789+−-=()abcdefghijklmnoprstuvwxyz",
            "⁰¹²³⁴⁵⁶⁷⁸⁹⁺⁻⁻⁼⁽⁾ᵃᵇᶜᵈᵉᶠᵍʰⁱʲᵏˡᵐⁿᵒᵖʳˢᵗᵘᵛʷˣʸᶻ",
            strict=True,
        )
    ),
    "sub": dict(zip("0123456789+−-=()aehijklmnoprstuvx", "₀₁₂₃₄₅₆₇₈₉₊₋₋₌₍₎ₐₑₕᵢⱼₖₗₘₙₒₚᵣₛₜᵤᵥₓ", strict=True)),
}


def in_scripts(text: str, kinds: Container[str]) -> str:
    """Return a text that is of the kind "sup" or "sub" in such characters, where there are all of them."""
    for kind, characters in _SCRIPTS.items():
        if kind in kinds and all(c in characters for c in text):
            return "".join(characters[c] for c in text)
    return text


def scripted(text: str, scripts: Sequence[tuple[int, int, str]]) -> str:
    """Return a text with its superscripts and subscripts in such characters; each is given by its start, its
    end and its kind, and they do not overlap.
    """
    out, at = "", 0
    for start, end, kind in scripts:
        out += text[at:start] + in_scripts(text[start:end], (kind,))
        at = end
    return out + text[at:]
