//! Changes as text: what a reviewer must know first, then the rest by module.

use super::{Compared, EDITS, NO_EDIT, words};
use crate::out::{Out, safe};
use crate::patch;
use crate::text::{BOLD, DIM, Extent, LABELS, Layout, write_findings};
use corvant_core::compare::{DefinitionChange, FindingChange};
use std::collections::BTreeMap;
use std::io::{self, Write};

/// Findings that are gone, and lines of the rest, that are shown; JSON has all.
const SHOWN: usize = 200;
/// Columns that the word for what became of a definition takes.
const TURN: usize = 9;

/// Writes changes as text. At most `limit` new findings are shown; all are counted.
pub fn write(
    compared: Compared<'_>,
    limit: Option<usize>,
    layout: Layout,
    out: &mut Out<'_>,
) -> io::Result<()> {
    let Compared { old, new, comparison, .. } = compared;
    let changes = &comparison.findings;
    let numbers = |all: &[FindingChange]| all.iter().map(|change| change.number).collect::<Vec<_>>();
    let fresh = [numbers(&changes.new), numbers(&changes.worse)].concat();
    let extent = Extent { by: None, limit };
    let findings: Vec<_> = fresh.iter().map(|&number| &new.report.findings[number]).collect();
    write_findings(&findings, new.wiring, extent, layout, out)?;
    if !changes.gone.is_empty() {
        heading("gone", layout, out)?;
        for change in changes.gone.iter().take(SHOWN) {
            let finding = &old.report.findings[change.number];
            let text = format!("{} {}: {}", finding.severity.word(), finding.rule.name, finding.subject);
            line(&text, "", layout, out)?;
        }
        more(changes.gone.len(), layout, out)?;
    }
    if !comparison.effects.is_empty() {
        heading("what follows", layout, out)?;
        for effect in comparison.effects.iter().take(SHOWN) {
            line(&words::effect(effect, compared.with_values), "", layout, out)?;
        }
        more(comparison.effects.len(), layout, out)?;
    }
    definitions(&compared, layout, out)?;
    if comparison.is_empty() {
        writeln!(out, "nothing is another in {} than in {}", safe(new.name), safe(old.name))?;
    }
    layout.paint(out, BOLD, &words::findings(&compared))?;
    writeln!(out)?;
    let (definitions, effects) = (comparison.definitions.len(), comparison.effects.len());
    writeln!(
        out,
        "{} against {}: definitions that changed: {definitions}; what follows: {effects}",
        safe(new.name),
        safe(old.name)
    )?;
    if !comparison.unseen.is_empty() {
        heading("not looked at:", layout, out)?;
        for unseen in comparison.unseen.iter().take(SHOWN) {
            line(&words::unseen(unseen, &compared), "", layout, out)?;
        }
        more(comparison.unseen.len(), layout, out)?;
    }
    edits(&compared, layout, out)
}

/// What files would have to say for what is supposed.
fn edits(compared: &Compared<'_>, layout: Layout, out: &mut Out<'_>) -> io::Result<()> {
    let supposed = compared.supposed;
    if supposed.changes.is_empty() {
        return Ok(());
    }
    if compared.comparison.unseen.is_empty() {
        writeln!(out)?;
    }
    heading(&format!("{}:", EDITS.to_lowercase()), layout, out)?;
    patch::write(supposed.patch, layout, out)?;
    for asked in supposed.without_edits() {
        line(&format!("{asked}: {NO_EDIT}"), "", layout, out)?;
    }
    Ok(())
}

/// Definitions that are another, by module.
fn definitions(compared: &Compared<'_>, layout: Layout, out: &mut Out<'_>) -> io::Result<()> {
    let mut by_module: BTreeMap<&str, Vec<&DefinitionChange>> = BTreeMap::new();
    for change in &compared.comparison.definitions {
        by_module.entry(&change.module).or_default().push(change);
    }
    let mut shown = 0;
    for (module, changes) in by_module {
        if shown >= SHOWN {
            break;
        }
        heading(&format!("module {module}"), layout, out)?;
        for change in changes {
            shown += 1;
            let word = words::turn(change);
            write!(out, "  ")?;
            layout.paint(out, LABELS, &format!("{word:TURN$}"))?;
            write!(out, "{}", safe(&words::definition(change)))?;
            address(&words::places(compared, change.before.as_ref(), change.after.as_ref()), layout, out)?;
            for part in words::parts(change) {
                let text = words::part(part, compared.with_values);
                let places = words::places(compared, part.places.0.as_ref(), part.places.1.as_ref());
                line(&format!("{:TURN$}{text}", ""), &places, layout, out)?;
            }
        }
    }
    more(compared.comparison.definitions.len().max(shown), layout, out)
}

fn heading(text: &str, layout: Layout, out: &mut Out<'_>) -> io::Result<()> {
    layout.paint(out, BOLD, &safe(text))?;
    writeln!(out)
}

fn line(text: &str, place: &str, layout: Layout, out: &mut Out<'_>) -> io::Result<()> {
    let text = safe(text);
    let indent = text.len() - text.trim_start().len();
    for (number, line) in layout.lines(&text, 4 + indent).iter().enumerate() {
        let more = if number > 0 { " ".repeat(indent + 2) } else { String::new() };
        write!(out, "{}  {more}{line}", if number > 0 { "\n" } else { "" })?;
    }
    address(place, layout, out)
}

fn address(place: &str, layout: Layout, out: &mut Out<'_>) -> io::Result<()> {
    if !place.is_empty() {
        write!(out, "  ")?;
        layout.paint(out, DIM, &safe(place))?;
    }
    writeln!(out)
}

/// Says how many are not shown, and ends a part.
fn more(count: usize, layout: Layout, out: &mut Out<'_>) -> io::Result<()> {
    if count > SHOWN {
        line(&format!("… and {} more; JSON has all", count - SHOWN), "", layout, out)?;
    }
    if count > 0 { writeln!(out) } else { Ok(()) }
}
