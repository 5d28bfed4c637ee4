//! Places where a name is written, a line each.

use super::address;
use crate::out::{Out, safe};
use crate::text::{BOLD, DIM, Layout};
use corvant_core::answers::find::Mention;
use corvant_core::wiring::Wiring;
use std::io::{self, Write};

/// Writes a line for each place: `file:line:column: what is done there`.
pub fn text(mentions: &[Mention], wiring: &Wiring, layout: Layout, out: &mut Out<'_>) -> io::Result<()> {
    for mention in mentions {
        let at = address(wiring, mention.source, mention.span);
        layout.paint(out, DIM, &format!("{}:", safe(&at)))?;
        write!(out, " {} ", mention.kind.word())?;
        layout.paint(out, BOLD, &safe(wiring.text(mention.name)))?;
        let by = mention.by.map_or_else(String::new, |by| format!(", by {}", safe(wiring.text(by))));
        writeln!(out, " {}{by}", mention.act.word())?;
    }
    Ok(())
}
