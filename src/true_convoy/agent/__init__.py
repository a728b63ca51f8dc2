"""The ``convoy`` command: everything that touches a member's folder. The rules are in the core; here are the hands."""
