from velmora.timetable.parts import (
    Clock, StationClock, SpareClock, Table, HolidayTable, Printer, Sheet, LargeSheet, SmallSheet, HalfSheet,
)


def fill(ledger, calendar):
    ledger.enter(Clock, StationClock)
    ledger.enter(Clock, SpareClock)
    ledger.enter(Table, Table, good_for="season")
    if calendar.is_holiday:
        ledger.enter(Table, HolidayTable)
    ledger.enter(Printer, Printer)
    ledger.enter_all(Sheet, {"large": LargeSheet, "small": SmallSheet, "a5": HalfSheet})
    ledger.for_(Printer).asking(Clock).hand_out(StationClock)


def open_counters(counter):
    counter.open("print-room", Printer)
