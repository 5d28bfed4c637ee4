class Clock:
    pass


class StationClock(Clock):
    pass


class SpareClock(Clock):
    pass


class Table:
    def __init__(self, clock: Clock):
        self.clock = clock


class HolidayTable(Table):
    def __init__(self, clock: Clock, calendar: "Calendar"):
        super().__init__(clock)


class Calendar:
    pass


class Printer:
    def __init__(self, table: Table, clock: Clock):
        self.table = table

    def print_all(self, ledger, kinds):
        for kind in kinds:
            ledger.look(Sheet, "large").print(kind)
        ledger.look(Sheet, "tiny")


class Sheet:
    pass


class LargeSheet(Sheet):
    pass


class SmallSheet(Sheet):
    def __init__(self, paper: "Paper"):
        self.paper = paper


class Paper:
    pass
