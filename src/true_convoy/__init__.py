"""True Convoy: assemble a pack of mods, publish it with fixed versions, keep every rig in step."""

__version__ = "0.1.0"
