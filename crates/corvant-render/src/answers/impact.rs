//! What stops working if something goes.

use super::{Page, with_place, write_json};
use crate::out::Out;
use crate::text::Layout;
use crate::text::words::counted;
use corvant_core::answers::impact::{Affected, Impact};
use corvant_core::wiring::Wiring;
use serde_json::{Value, json};
use std::io;

/// Writes an impact for people.
pub fn text(impact: &Impact, wiring: &Wiring, layout: Layout, out: &mut Out<'_>) -> io::Result<()> {
    let mut page = Page { wiring, layout, out };
    page.title("without", &impact.gone.join(", "))?;
    let sections = [
        ("start-up fails in", &impact.start_up),
        ("first use fails", &impact.entries),
        ("cannot be built", &impact.services),
        ("gets another", &impact.replaced),
        ("goes on without", &impact.loses),
        ("fails already", &impact.failing_already),
    ];
    let column = sections.iter().map(|(label, _)| label.len()).max().unwrap_or_default();
    let row = |affected: &'_ Affected| format!("{}: {}", affected.name, affected.how);
    for (label, affected) in sections {
        page.rows(label, column, affected.iter().map(|one| (row(one), one.place.as_ref())))?;
    }
    if !impact.modules.is_empty() {
        let modules: Vec<String> =
            impact.modules.iter().map(|(module, count)| format!("{module} {count}")).collect();
        page.row("by module", column, &modules.join(", "), None)?;
    }
    for (stage, words) in &impact.stages {
        page.row(&format!("in {stage}"), column, &words.join(", "), None)?;
    }
    let failing = impact.start_up.len() + impact.entries.len() + impact.services.len();
    let changing = impact.replaced.len() + impact.loses.len();
    let words = if failing + changing + impact.failing_already.len() == 0 {
        "nothing needs it: nothing stops working".to_owned()
    } else {
        let start = match (impact.start_up.is_empty(), impact.failing_already.is_empty()) {
            (true, true) => "the application starts",
            (true, false) => "nothing more fails at start-up",
            (false, _) => "the application does not start",
        };
        let parts = [
            (impact.entries.len(), "entry fails at first use", "entries fail at first use"),
            (impact.services.len(), "service cannot be built", "services cannot be built"),
            (changing, "thing changes and goes on", "things change and go on"),
        ];
        let parts = parts.into_iter().filter(|(count, ..)| *count > 0);
        let parts = parts.map(|(count, one, many)| counted(count, one, many));
        [start.to_owned()].into_iter().chain(parts).collect::<Vec<_>>().join("; ")
    };
    page.line(&words)
}

/// Writes an impact for programs.
pub fn json(impact: &Impact, wiring: &Wiring, out: &mut Out<'_>) -> io::Result<()> {
    let one = |affected: &Affected| {
        let object = json!({ "name": affected.name, "module": affected.module, "how": affected.how });
        with_place(wiring, object, affected.place.as_ref())
    };
    let list = |list: &[Affected]| list.iter().map(one).collect::<Value>();
    let modules = impact.modules.iter().map(|(module, count)| json!({ "module": module, "failing": count }));
    let stages = impact.stages.iter().map(|(stage, words)| json!({ "stage": stage, "differs": words }));
    let value = json!({
        "gone": impact.gone,
        "fails_at_start_up": list(&impact.start_up),
        "fails_at_first_use": list(&impact.entries),
        "cannot_be_built": list(&impact.services),
        "gets_another": list(&impact.replaced),
        "goes_on_without": list(&impact.loses),
        "fails_already": list(&impact.failing_already),
        "modules": modules.collect::<Value>(),
        "stages": stages.collect::<Value>(),
    });
    write_json(&value, out)
}
