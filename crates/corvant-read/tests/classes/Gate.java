package velmora.depot;

import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.util.List;
import java.util.Optional;

public class Gate implements Opening {
    public Gate(List<Lamp> lamps, @Under("day") Clock clock, Optional<Siren> siren, int number) {}

    public Lamp lamp(Yard yard) { return null; }
}

interface Opening {}

interface Lamp {}

interface Clock {}

interface Siren {}

interface Yard {}

@Retention(RetentionPolicy.RUNTIME)
@interface Under { String value(); }
