"""What is shown of a finding, by how it was recognised: one frozen dataclass each, with its JSON.

A kind of flaw that can be recognised in several ways has several: `Kept` and `Ghost` of a residue,
`Foreign`, `Island` and `Departs` of something invented. The keys in reports are the fields' names
(docs/formats.md); a field that is None is left out.
"""

from .base import Evidence, Lab, from_json
from .copies import Copy
from .detail import Detail, Streaks
from .foreign import Departs, Foreign, Island, Odd, Shares, StandsOff
from .lines import Course, Line, Lines
from .outside import Levels, Outside
from .own import Own
from .residues import Ghost, Kept
from .rims import Along, Fades, Profile, Rim, Ring, Strip
from .shadow import Shadow
from .tone import Tone, ToneMap
from .unchanged import Unchanged

__all__ = [
    "Along",
    "Copy",
    "Course",
    "Departs",
    "Detail",
    "Evidence",
    "Fades",
    "Foreign",
    "Ghost",
    "Island",
    "Kept",
    "Lab",
    "Levels",
    "Line",
    "Lines",
    "Odd",
    "Outside",
    "Own",
    "Profile",
    "Rim",
    "Ring",
    "Shadow",
    "Shares",
    "StandsOff",
    "Streaks",
    "Strip",
    "Tone",
    "ToneMap",
    "Unchanged",
    "from_json",
]
