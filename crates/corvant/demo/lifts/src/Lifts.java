package velmora.lifts;

import java.util.List;
import velmora.parts.Answers;
import velmora.parts.FromSettings;
import velmora.parts.Part;

/** A lift between a street and its platform. */
interface Lift {
    boolean isRunning();
}

@Part("lifts.north")
class NorthLift implements Lift {
    private final Motor motor;

    NorthLift(Motor motor) {
        this.motor = motor;
    }

    public boolean isRunning() {
        return motor.turns();
    }
}

@Part("lifts.harbour")
class HarbourLift implements Lift {
    HarbourLift(Motor motor, Gauge gauge) {}

    public boolean isRunning() {
        return false;
    }
}

@Part("lifts.motor")
class Motor {
    boolean turns() {
        return true;
    }
}

@Part("lifts.gauge")
class Gauge {
    Gauge(@FromSettings("lifts.gauge_seconds") int seconds) {}
}

@Part("lifts.board")
class Board {
    private final List<Lift> lifts;

    Board(List<Lift> lifts) {
        this.lifts = lifts;
    }
}

class Requests {
    @Answers("GET /lifts")
    String all(Board board) {
        return board.toString();
    }
}
