//! Patches for people: what goes and what comes in colour.

use crate::out::Out;
use crate::text::{BOLD, LABELS, Layout};
use anstyle::{AnsiColor, Style};
use std::io::{self, Write};

const GOES: Style = AnsiColor::Red.on_default();
const COMES: Style = AnsiColor::Green.on_default();

/// Writes a unified diff as it is, its lines in colour where that is wanted.
pub fn write(patch: &str, layout: Layout, out: &mut Out<'_>) -> io::Result<()> {
    for line in patch.lines() {
        let style = match line.as_bytes() {
            [b'-', b'-', b'-', b' ', ..] | [b'+', b'+', b'+', b' ', ..] => BOLD,
            [b'@', b'@', ..] => LABELS,
            [b'-', ..] => GOES,
            [b'+', ..] => COMES,
            _ => Style::new(),
        };
        layout.paint(out, style, line.trim_end_matches('\r'))?;
        writeln!(out)?;
    }
    Ok(())
}
