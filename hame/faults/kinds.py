"""All kinds of fault; a family that is new is one more line."""

from __future__ import annotations

import hame.faults.chains
import hame.faults.feet
import hame.faults.limbs
import hame.faults.massway
import hame.faults.paths
import hame.faults.standing
import hame.faults.taken
import hame.faults.timing
import hame.faults.weight  # noqa: F401
from hame.faults.fault import FAULTS, GROUPS, Alert, Group, faults_in

__all__ = ["GROUPS", "FAULTS", "Alert", "Group", "faults_in"]
