//! Places where a name is written, a line each.

use super::{address, place_fields};
use crate::text::words::safe;
use crate::text::{BOLD, DIM, Layout};
use anstyle::Style;
use corvant_core::answers::find::Mention;
use corvant_core::source::Place;
use corvant_core::wiring::Wiring;
use serde_json::{Value, json};
use std::io::{self, Write};

/// Writes a line for each place: `file:line:column: what is done there`.
pub fn text(mentions: &[Mention], wiring: &Wiring, layout: Layout, out: &mut dyn Write) -> io::Result<()> {
    let style = |style: Style| if layout.color { style } else { Style::new() };
    let (dim, bold) = (style(DIM), style(BOLD));
    for mention in mentions {
        let at = address(wiring, mention.source, mention.span);
        let name = safe(wiring.text(mention.name)).into_owned();
        let by = mention.by.map_or_else(String::new, |by| format!(", by {}", safe(wiring.text(by))));
        writeln!(
            out,
            "{dim}{}:{dim:#} {} {bold}{name}{bold:#} {}{by}",
            safe(&at),
            mention.kind,
            mention.act
        )?;
    }
    Ok(())
}

/// Writes an object for each place, one by one.
pub fn json(mentions: &[Mention], wiring: &Wiring, out: &mut dyn Write) -> io::Result<()> {
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
        writeln!(out, "  {object}{end}")?;
    }
    writeln!(out, "]")
}
