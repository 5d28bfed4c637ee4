//! `repeated-lookup`: a look-up inside a loop.

use corvant_testing::expect;

/// What a loop goes over is looked up once; what stands in a function inside the loop is another's business.
#[test]
fn only_what_is_done_on_every_turn_is_repeated() {
    expect(
        r#"
//- corvant.toml
[[reader]]
name = "stock"
files = ["**/*.ts"]
syntax = "code"
language = "typescript"
module = "board"
[[reader.take]]
what = "lookup"
each = { code = "stock.hand($ID)" }
need = [{ service = "$.ID" }]
//- board.wiring.yaml
corvant: 1
module: board
services: { lamp: {}, lines: {} }
//- board.ts
export function show() {
    for (const line of stock.hand("lines")) {
        light(line);
    }
    for (let at = 0; at < 3; at++) {
        stock.hand("lamp");
                    ^^^^ repeated-lookup board.ts > lamp
    }
    while (stock.hand("lines").more()) {
                       ^^^^^ repeated-lookup board.ts > lines
        function later() { stock.hand("lamp"); }
    }
}
"#,
    );
}
