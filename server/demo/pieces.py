"""What the demo consists of, piece by piece: each is laid once, so that a later demo reaches an earlier one.

Names alone, so that looking whether something is missing costs nothing: what is laid stands in DemoPiece.
"""

from __future__ import annotations

from server.productions.models import DemoPiece, Production

NAME = "Skerry Light"
FIRST = ("production", "character Brannoc", "character Wick", "shot Before dawn", "shot Morning round",
         "shot Late for the lamp", "shot Gull on the rail", "shot Keeping watch")  # fmt: skip
SECOND = ("prop Oil can", "prop Signal lamp", "poses", "shot Filling the lamp")
THIRD = ("prop Crate", "prop Coil of rope", "prop Ladder", "prop Step", "shot The heavy can", "shot Up to the gallery",
         "shot Passing it on")  # fmt: skip
FOURTH = ("character Tide crab", "character Bosun", "prop Rail", "prop Lamp post", "shot Reaching for the lamp",
          "shot Crab on the slip", "shot Wick off balance")  # fmt: skip
FIFTH = ("prop Bollard", "prop Shot camera", "shot Over the bollard", "take Morning round: Tired",
         "take Gull on the rail: Refined")  # fmt: skip
SIXTH = ("prop Sack", "shot The ladder gives way", "shot Sack on the quay", "shot Round and over")
SEVENTH = ("prop Gallery", "prop Gangway", "shot Round the gallery")
EIGHTH = ("expressions", "take Gull on the rail: With faces", "character Brittle star", "shot Something in the fog")
PIECES = (*FIRST, *SECOND, *THIRD, *FOURTH, *FIFTH, *SIXTH, *SEVENTH, *EIGHTH)


def missing() -> list[str]:
    """The pieces that were never laid here. A demo from before pieces were counted has the first ones."""
    laid = set(DemoPiece.objects.values_list("name", flat=True))
    if not laid:
        production = Production.objects.filter(name=NAME).order_by("id").first()
        if production is not None:
            DemoPiece.objects.bulk_create(DemoPiece(name=name, production=production) for name in FIRST)
            laid = set(FIRST)
    return [name for name in PIECES if name not in laid]
