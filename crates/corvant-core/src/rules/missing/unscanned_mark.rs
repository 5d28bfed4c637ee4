//! `unscanned-mark`: a type is marked to be found, and lies where nobody looks.

use crate::facts::{DeclaredType, Named};
use crate::finding::{Certainty, Family, Finding, RuleText, Scope, Severity};
use crate::name::Name;
use crate::rules::Rule;
use crate::views::{Check, Sink, WorkspaceView};
use crate::word::some_of;
use foldhash::{HashMap, HashSet};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "unscanned-mark",
        family: Family::Missing,
        severity: Severity::Error,
        summary: "a type that is marked for scanning and lies outside what is scanned",
        why: "It looks registered and never is: who needs it fails, or, where several are collected, it is silently left \
              out.",
        limits: "What is scanned is what the readers read that take types by the mark (`marked`). Interfaces and abstract \
                 classes may carry a mark for those that inherit it.",
        fixes: Certainty::Advice,
        faulty: r#"
//- corvant.toml
[[types]]
files = ["src/**"]
[[reader]]
name = "parts"
files = ["src/depot/*.java"]
syntax = "types"
module = "depot"
[[reader.take]]
what = "service"
each = "$.types[*]"
marked = "velmora.kit.Part"
id = "$.name"
type = "$.name"
[[reader.take]]
what = "entry"
each = "$.types[*]"
id = "$.name"
[[reader.take.need]]
service = "$.name"
//- src/depot/Gate.java
package velmora.depot;
@velmora.kit.Part class Gate { }
//- src/yard/Yard.java
package velmora.yard;
@velmora.kit.Part class Yard { }
"#,
        corrected: r#"
//- corvant.toml
[[types]]
files = ["src/**"]
[[reader]]
name = "parts"
files = ["src/*/*.java"]
syntax = "types"
module = "depot"
[[reader.take]]
what = "service"
each = "$.types[*]"
marked = "velmora.kit.Part"
id = "$.name"
type = "$.name"
[[reader.take]]
what = "entry"
each = "$.types[*]"
id = "$.name"
[[reader.take.need]]
service = "$.name"
//- src/depot/Gate.java
package velmora.depot;
@velmora.kit.Part class Gate { }
//- src/yard/Yard.java
package velmora.yard;
@velmora.kit.Part class Yard { }
"#,
        scope: Scope::Workspace,
    },
    check: Check::Workspace(check),
};

fn check(view: &WorkspaceView<'_>, sink: &mut Sink) {
    let wiring = view.wiring();
    let facts = &wiring.facts;
    if facts.scanned_marks.is_empty() {
        return;
    }
    let mut files: HashMap<Name, HashSet<&str>> = HashMap::default();
    let mut readers: HashMap<Name, Vec<&str>> = HashMap::default();
    for scanned in &facts.scanned_marks {
        files.entry(scanned.mark).or_default().insert(wiring.path(scanned.source));
        let readers = readers.entry(scanned.mark).or_default();
        let reader = wiring.headers[scanned.source.index()].reader.map(|reader| view.text(reader));
        readers.extend(reader.filter(|reader| !readers.contains(reader)));
    }
    for declared in facts.declared_types.iter().filter(|declared| !declared.is_abstract) {
        let path = wiring.path(declared.source);
        let marks = declared.marks.of(view.parts()).iter();
        let unscanned = |mark: &&Named| files.get(&mark.name).is_some_and(|files| !files.contains(path));
        if let Some(mark) = marks.copied().find(|mark| unscanned(&mark)) {
            sink.report(finding(view, declared, mark, &readers[&mark.name]));
        }
    }
}

fn finding(view: &WorkspaceView<'_>, declared: &DeclaredType, mark: Named, readers: &[&str]) -> Finding {
    let (of, mark_text) = (view.text(declared.name.name), view.text(mark.name));
    let reads = if readers.len() == 1 { "reads" } else { "read" };
    let readers = some_of(readers, 3);
    let message = format!(
        "{of} carries the mark {mark_text}, and {readers} {reads} no such file: it is never registered"
    );
    let finding = Finding::new(&RULE.text, of, message).at(declared.source, mark.span, "marked here").at(
        declared.source,
        declared.name.span,
        "declared here",
    );
    finding.advice(format!("add its folder to the `files` of {readers}, move it there, or take the mark off"))
}
