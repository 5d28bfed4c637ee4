package velmora.signals;

public interface Points {}

class FieldPoints implements Points {}

class SparePoints implements Points {}

class Setup {
    void fill(Yard yard) {
        yard.park(FieldPoints.class).answering(Points.class);
        yard.park(SparePoints.class).answering(Points.class);
    }
}
