<?php

namespace Velmora\Traction;

use Velmora\Kit\{Clock, Record};

interface Source
{
    public function volts(): int;
}

trait Logged
{
    public function setLog(Log $log): void
    {
    }
}

class Log
{
}

class Quartz implements Clock
{
    public function now(): int
    {
        return 1;
    }
}

final class Substation extends Record implements Source
{
    use Logged;

    public function volts(): int
    {
        return 750;
    }
}

class Feeder
{
    public function __construct(private Source $source, private Clock $clock, int ...$limits)
    {
    }
}

class Breaker
{
    public function __construct(private Feeder $feeder)
    {
    }

    public function trip(): void
    {
    }
}

class Switchboard
{
    public function __construct(private Source $source, private Clock $clock, private bool $lit = false)
    {
    }
}

class Works
{
    public function breaker(): Breaker
    {
        return new Breaker($this->feeder);
    }
}
