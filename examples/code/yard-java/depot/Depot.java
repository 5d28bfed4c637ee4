package velmora.depot;

import velmora.signals.Points;

interface Opening {}

class Gate implements Opening {
    Gate(Lock lock, Points points) {}
}

class Lock {
    Lock(Bell bell) {}
}

class Bell {}

class Washer {
    private final Yard yard;

    Washer(Yard yard) {
        this.yard = yard;
    }

    void wash(String[] trams) {
        Brush brush = yard.fetch(Brush.class);
        for (String tram : trams) {
            yard.fetch(Pump.class).run(tram);
        }
    }
}

class Brush {}

class Pump {}

class Turntable {}

class Yard {}

class Crossing {}

class Setup {
    void fill(Yard yard, Class<?> spare) {
        yard.park(Gate.class).answering(Opening.class).allSeason();
        yard.park(Lock.class);
        yard
            .park(Washer.class)
            .onTrack("4");
        yard.park(Brush.class);
        yard.park(Turntable.class);
        yard.park(spare);
    }

    void open(Crossing crossing) {
        crossing.open("north-gate", Opening.class);
        crossing.open("wash-hall", Washer.class);
    }
}
