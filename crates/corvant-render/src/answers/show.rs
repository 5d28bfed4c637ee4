//! One thing, with all that is known of it.

use super::{Page, with_place, write_json};
use crate::out::Out;
use crate::text::Layout;
use corvant_core::answers::show::{Fact, Sheet};
use corvant_core::wiring::Wiring;
use serde_json::{Map, Value, json};
use std::io;

/// Writes a sheet for people.
pub fn text(sheet: &Sheet, wiring: &Wiring, layout: Layout, out: &mut Out<'_>) -> io::Result<()> {
    let mut page = Page { wiring, layout, out };
    page.title(sheet.kind.word(), &sheet.name)?;
    let column = sheet.sections.iter().map(|section| section.title.len()).max().unwrap_or(0);
    for section in &sheet.sections {
        let rows = section.facts.iter().map(|fact| (fact.text.clone(), fact.place.as_ref()));
        page.rows(section.title, column, rows)?;
    }
    Ok(())
}

/// Writes a sheet for programs: for each section a list of objects, each with its text, its parts and its place.
pub fn json(sheet: &Sheet, wiring: &Wiring, out: &mut Out<'_>) -> io::Result<()> {
    let fact = |fact: &Fact| {
        let mut object = json!({ "text": fact.text });
        for (part, value) in &fact.parts {
            object[*part] = Value::String(value.clone());
        }
        with_place(wiring, object, fact.place.as_ref())
    };
    let sections = sheet
        .sections
        .iter()
        .map(|section| (section.title.replace(' ', "_"), section.facts.iter().map(fact).collect()));
    let sections: Map<String, Value> = sections.collect();
    write_json(&json!({ "kind": sheet.kind.word(), "name": sheet.name, "sections": sections }), out)
}
