<?php

return [
    'parts' => [
        'rails.bond' => ['made' => \Velmora\Traction\Bond::class, 'of' => ['part:rails.cable']],
        'rails.cable' => ['made' => 'Velmora\Traction\Cable', 'of' => ['part:rails.copper']],
    ],
];
