//! `repeated-lookup`: a look-up inside a loop.

use crate::finding::{Certainty, Family, Finding, RuleText, Scope, Severity};
use crate::rules::Rule;
use crate::views::{Check, Sink, WorkspaceView};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "repeated-lookup",
        family: Family::LookUps,
        severity: Severity::Note,
        summary: "a look-up inside a loop",
        why: "The same is searched for again on every turn, and where each look-up makes a new instance, one is \
          made on every turn.",
        limits: "Only look-ups that a reader takes from code are seen, and only loops of the function in which they stand.",
        fixes: Certainty::Advice,
        faulty: r#"
//- corvant.toml
[[reader]]
name = "stock"
files = ["**/*.java"]
syntax = "code"
language = "java"
module = "board"
[[reader.take]]
what = "lookup"
each = { code = "stock.hand($ID)" }
id = "$['@class']"
need = [{ service = "$.ID" }]
//- board/board.wiring.yaml
corvant: 1
module: board
services: { board.lamp: {} }
//- board/Board.java
package velmora.board;
class Board {
    void show(Stock stock, String[] lines) {
        for (String line : lines) {
            stock.hand("board.lamp");
        }
    }
}
"#,
        corrected: r#"
//- corvant.toml
[[reader]]
name = "stock"
files = ["**/*.java"]
syntax = "code"
language = "java"
module = "board"
[[reader.take]]
what = "lookup"
each = { code = "stock.hand($ID)" }
id = "$['@class']"
need = [{ service = "$.ID" }]
//- board/board.wiring.yaml
corvant: 1
module: board
services: { board.lamp: {} }
//- board/Board.java
package velmora.board;
class Board {
    void show(Stock stock, String[] lines) {
        Object lamp = stock.hand("board.lamp");
        for (String line : lines) {
            light(lamp, line);
        }
    }
}
"#,
        scope: Scope::Workspace,
    },
    check: Check::Workspace(check),
};

fn check(view: &WorkspaceView<'_>, sink: &mut Sink) {
    let parts = &view.wiring().facts.parts;
    for entry in view.wiring().facts.entries.iter().filter(|entry| entry.is_look_up) {
        for need in entry.needs.of(parts).iter().filter(|need| need.is_repeated) {
            let (id, slot) = (view.text(entry.id.name), view.text(need.slot.name));
            let message = format!("{id} looks up {slot} again on every turn of a loop");
            let finding = Finding::new(&RULE.text, format!("{id} > {slot}"), message)
                .at(need.source, need.span, "looked up here, inside a loop")
                .advice(format!("look {slot} up once before the loop, or take it through the constructor"));
            sink.report(finding);
        }
    }
}
