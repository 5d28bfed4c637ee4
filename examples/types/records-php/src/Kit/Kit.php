<?php

namespace Velmora\Kit;

interface Clock
{
    public function now(): int;
}

abstract class Record
{
    public function __construct(protected Clock $clock, protected ?string $label = null)
    {
    }
}
