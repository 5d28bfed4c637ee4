//! In which order things are registered and built.

use super::{Page, words};
use crate::out::Out;
use crate::text::Layout;
use crate::text::words::counted;
use corvant_core::answers::order::{Built, Order, Registration};
use corvant_core::wiring::Wiring;
use std::io;

/// Registered services that a line names.
const NAMED: usize = 6;

/// Writes an order for people: a numbered line for each step, none left out.
pub fn text(order: &Order, wiring: &Wiring, layout: Layout, out: &mut Out<'_>) -> io::Result<()> {
    let mut page = Page { wiring, layout, out };
    if let Some(entry) = &order.entry {
        page.title("for the entry", entry)?;
    }
    if !order.providers.is_empty() {
        let by = if order.has_roster { "the roster's order" } else { "no roster: in the order of the files" };
        page.line(&format!("registering ({by})"))?;
        for (number, provider) in order.providers.iter().enumerate() {
            let text = format!("{}: {}", provider.provider, registers(provider));
            page.row(&format!("{:>5}", number + 1), 5, &text, provider.place.as_ref())?;
        }
    }
    page.line("building (what is needed first, then by name)")?;
    steps(&mut page, &order.building)?;
    if !order.later.is_empty() {
        page.line("later (for lazy needs, and those that are met after building)")?;
        steps(&mut page, &order.later)?;
    }
    Ok(())
}

fn registers(provider: &Registration) -> String {
    let shown: Vec<&str> = provider.registers.iter().take(NAMED).map(String::as_str).collect();
    let more = provider.registers.len().saturating_sub(NAMED);
    let more = if more > 0 { format!(" and {more} more") } else { String::new() };
    let whole = if provider.is_whole_module { "all of its module: " } else { "" };
    if shown.is_empty() { "nothing".to_owned() } else { format!("{whole}{}{more}", shown.join(", ")) }
}

fn steps(page: &mut Page<'_, '_>, steps: &[Built]) -> io::Result<()> {
    if steps.is_empty() {
        page.row("", 5, "nothing", None)?;
    }
    for (number, step) in steps.iter().enumerate() {
        let text = match step.services.as_slice() {
            [one] => one.clone(),
            cycle => format!(
                "a cycle group of {}: {}",
                counted(cycle.len(), "service", "services"),
                cycle.join(" ⇄ ")
            ),
        };
        let lacks = if step.lacks.is_empty() {
            String::new()
        } else {
            let lacks: Vec<String> = step.lacks.iter().map(words::aim).collect();
            format!(" (cannot be built: {} not found)", lacks.join(", "))
        };
        page.row(&format!("{:>5}", number + 1), 5, &format!("{text}{lacks}"), step.place.as_ref())?;
    }
    Ok(())
}
