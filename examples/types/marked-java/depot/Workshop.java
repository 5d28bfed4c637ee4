package velmora.depot;

import velmora.kit.*;

@Carried
class Workshop {
    Workshop(Lift lift, Crane crane) {}
}

@Carried
class Lift {
    Lift(Workshop workshop) {}
}

class Makers {
    @Maker
    Crane crane(Rail rail) { return new Crane(); }

    @Maker
    Rail rail() { return new Rail(); }
}

class Crane {}

class Rail {}

class Gates {
    @Stop("POST /gates")
    void open(Workshop workshop) {}
}
