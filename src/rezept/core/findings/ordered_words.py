"""What is said of outcomes that come in steps: a row for each of them."""

from __future__ import annotations

from dataclasses import dataclass

from rezept.core.findings.candidates import PredictedKey


@dataclass(frozen=True)
class OrderedWords:
    """
    Parameters
    ----------
    key : what is predicted, the share of fresh sheets that come out as wanted
    comes_out, came_out : what a patch that comes out as wanted does, and what several did
    too_little, too_much, beside : why nothing can be chosen while no patch did: all got too little, too much, or some
        this and some that
    all_wanted : why the fastest is not known while every patch did
    """

    key: PredictedKey
    comes_out: str
    came_out: str
    too_little: str
    all_wanted: str
    too_much: str = ""
    beside: str = ""


WORDS: dict[str, OrderedWords] = {
    "through": OrderedWords(
        key="p_drops_out",
        comes_out="drops out",
        came_out="dropped out",
        too_little="No patch dropped out yet, so nothing can be chosen: go slower or stronger first.",
        all_wanted="Every patch dropped out: how fast one may go is not known yet. Go faster next.",
    ),
    "layer": OrderedWords(
        key="p_layer_off",
        comes_out="comes off and leaves what is below whole",
        came_out="came off and left what is below whole",
        too_little="The layer came off nowhere yet, so nothing can be chosen: go slower or stronger first.",
        all_wanted="The layer came off everywhere: how fast one may go is not known yet. Go faster next.",
        too_much="What lies below was hurt wherever the layer came off: go faster or weaker first.",
        beside="The layer was still on or what lies below was hurt, and nothing between: burn between them.",
    ),
}
