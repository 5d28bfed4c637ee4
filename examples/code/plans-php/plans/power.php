<?php

return [
    'files' => ['power.php', 'Rails.php'],
    'parts' => [
        'power.meter' => ['made' => 'Velmora\Traction\Meter'],
        'power.feeder' => ['made' => 'Velmora\Traction\Feeder', 'of' => ['part:power.meter', 'part:rails.bond']],
        'power.fuse' => ['made' => 'Velmora\Traction\Fuze', 'of' => ['part:power.meter']],
        'power.lamp' => ['made' => 'Velmora\Traction\Lamp'],
    ],
    'switches' => [
        'feed' => 'power.feeder',
        'blow' => 'power.fuse',
    ],
];
