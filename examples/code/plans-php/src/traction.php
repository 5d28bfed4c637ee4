<?php

namespace Velmora\Traction;

class Meter {}
class Feeder { public function __construct(Meter $meter, Bond $bond) {} }
class Fuse { public function __construct(Meter $meter) {} }
class Bond { public function __construct(Cable $cable) {} }
class Cable { public function __construct($copper) {} }

class Lamp
{
    public function light(): void
    {
        TheMeter::now()->read();
        while ($this->isOn()) {
            TheWire::now()->glow();
        }
    }
}

class TheMeter extends Shorthand { const FOR = 'power.meter'; }
class TheWire extends Shorthand { const FOR = 'power.wire'; }
