"""The records of a shop: one frozen class for each table.

The fields of a class are the columns of its table; :mod:`creekbed.store.tables` makes the tables from them. Times are
aware datetimes and are stored in UTC. Amounts carry their unit in the name, or in the catalogue. A record never
changes: :meth:`creekbed.store.unit_of_work.Change.update` stores changed values and returns a new record.
"""

from creekbed.store.records.base import NEW, Record, Versioned
from creekbed.store.records.calendar import ClosedDays, DepartureKind, Season
from creekbed.store.records.cleaning import (
    Bath,
    BenchReed,
    ClothCount,
    ClothOnLine,
    ClothRecord,
    HandWash,
    LubricantTaken,
    OwnProduct,
    ReedBath,
    StringDrop,
    WaterWeighing,
)
from creekbed.store.records.fleet import Departure, Hire, Instrument
from creekbed.store.records.jobs import (
    AwaitedPart,
    ContentLine,
    Disinfection,
    Finding,
    FixedStart,
    InHand,
    Job,
    Mark,
    Photo,
    Playing,
    SoundRecording,
    StepRecord,
    TagPrint,
    Tray,
    Wait,
)
from creekbed.store.records.shop import (
    Attendance,
    HouseValue,
    OwnName,
    Person,
    PointPlacing,
    PolicyChoice,
    PolicyRequest,
    Setting,
)
from creekbed.store.records.supplies import Lot, Price, ShelfEntry, StockMove
from creekbed.store.records.unjournalled import AirReading, ClockAnchor, ForecastRecord, JournalEntry, ShownPlan

__all__ = [
    "NEW",
    "AirReading",
    "Attendance",
    "AwaitedPart",
    "Bath",
    "BenchReed",
    "ClockAnchor",
    "ClosedDays",
    "ClothCount",
    "ClothOnLine",
    "ClothRecord",
    "ContentLine",
    "Departure",
    "DepartureKind",
    "Disinfection",
    "Finding",
    "FixedStart",
    "ForecastRecord",
    "HandWash",
    "Hire",
    "HouseValue",
    "InHand",
    "Instrument",
    "Job",
    "JournalEntry",
    "Lot",
    "LubricantTaken",
    "Mark",
    "OwnName",
    "OwnProduct",
    "Person",
    "Photo",
    "Playing",
    "PointPlacing",
    "PolicyChoice",
    "PolicyRequest",
    "Price",
    "Record",
    "ReedBath",
    "Season",
    "Setting",
    "ShelfEntry",
    "ShownPlan",
    "SoundRecording",
    "StepRecord",
    "StockMove",
    "StringDrop",
    "TagPrint",
    "Tray",
    "Versioned",
    "Wait",
    "WaterWeighing",
]
