package velmora.lifts;

/** Where somebody answers who is stuck. */
public class Desk {
    private final Board board;
    private Line line;

    public Desk(Board board) {
        this.board = board;
    }

    public void setLine(Line line) {
        this.line = line;
    }
}

interface Line {}

class Phone implements Line {}

class SpareLift implements Lift {
    public boolean isRunning() {
        return false;
    }
}
