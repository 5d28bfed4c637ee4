//! Places where a name is written, a line each.

use super::{address, place_fields};
use crate::out::{Out, safe};
use crate::text::{BOLD, DIM, Layout};
use corvant_core::answers::find::Mention;
use corvant_core::source::Place;
use corvant_core::wiring::Wiring;
use serde_json::{Value, json};
use std::io::{self, Write};

/// Writes a line for each place: `file:line:column: what is done there`.
pub fn text(mentions: &[Mention], wiring: &Wiring, layout: Layout, out: &mut Out<'_>) -> io::Result<()> {
    for mention in mentions {
        let at = address(wiring, mention.source, mention.span);
        layout.paint(out, DIM, &format!("{}:", safe(&at)))?;
        write!(out, " {} ", mention.kind)?;
        layout.paint(out, BOLD, &safe(wiring.text(mention.name)))?;
        let by = mention.by.map_or_else(String::new, |by| format!(", by {}", safe(wiring.text(by))));
        writeln!(out, " {}{by}", mention.act)?;
    }
    Ok(())
}

/// Writes an object for each place, one by one.
pub fn json(mentions: &[Mention], wiring: &Wiring, out: &mut Out<'_>) -> io::Result<()> {
    writeln!(out, "[")?;
    for (number, mention) in mentions.iter().enumerate() {
        let mut object = json!({
            "name": wiring.text(mention.name),
            "kind": mention.kind,
            "act": mention.act,
            "by": mention.by.map(|by| wiring.text(by)),
        });
        let place = Place::new(mention.source, mention.span, "");
        if let Value::Object(fields) = &mut object {
            fields.extend(place_fields(wiring, Some(&place)));
        }
        let end = if number + 1 < mentions.len() { "," } else { "" };
        writeln!(out.json(), "  {object}{end}")?;
    }
    writeln!(out, "]")
}
