//! `hidden-need`: a need that is found by look-up at run time instead of declared.

use corvant_testing::expect;

/// What the code of a type looks up its service could declare; a function that is of no service's type is not meant.
#[test]
fn what_the_code_of_a_service_looks_up_is_hidden() {
    expect(
        r#"
//- corvant.toml
[[reader]]
name = "stock"
files = ["**/*.php"]
syntax = "code"
language = "php"
module = "board"
[[reader.take]]
what = "lookup"
each = { code = '$stock->hand($ID)' }
id = { any = ["$['@class']", "$['@file']"] }
need = [{ service = "$.ID" }]
//- board.wiring.yaml
corvant: 1
module: board
services: { lamp: {}, board: { type: 'Velmora\Board' } }
entries: { show: { needs: { board: { service: board } } } }
//- Board.php
<?php namespace Velmora;
class Board { function show($stock) { $stock->hand('lamp'); } }
                                                    ^^^^ hidden-need board
class Other { function show($stock) { $stock->hand('lamp'); } }
$stock->hand('lamp');
"#,
    );
}

#[test]
fn all_look_ups_of_a_service_are_one_finding_and_entries_are_not_meant() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
services:
  a.x: {}
  a.looks:
    needs:
      one: { service: a.x, via: look-up }
                      ^^^ hidden-need a.looks
      two: { contract: C, via: look-up, optional: true }
      three: { service: a.x }
entries:
  e: { needs: { x: { service: a.looks }, y: { service: a.x, via: look-up } } }
"#,
    );
}
