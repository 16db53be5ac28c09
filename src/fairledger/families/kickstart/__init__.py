"""The family ``kickstart``: answer files of commands and sections, for Linux installers and a hypervisor's.

Facts about commands and options follow the vendors' public installation references, from knowledge.
"""

from fairledger.families.kickstart.family import Kickstart

FAMILY = Kickstart()
