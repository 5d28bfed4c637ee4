//! How one thing comes to depend on another.

use super::{Page, words};
use crate::out::Out;
use crate::text::Layout;
use crate::text::words::counted;
use corvant_core::answers::why::{ChainLink, Nearest, Why};
use corvant_core::wiring::Wiring;
use std::io;

/// Writes chains for people, a step a line; if there is none, what comes nearest.
pub fn text(why: &Why, wiring: &Wiring, layout: Layout, out: &mut Out<'_>) -> io::Result<()> {
    let mut page = Page { wiring, layout, out };
    for (number, chain) in why.chains.iter().enumerate() {
        let length = counted(chain.len(), "step", "steps");
        let which = if why.chains.len() > 1 { format!("chain {}, {length}", number + 1) } else { length };
        page.title(&format!("{which}: {} depends on", why.from), &why.to)?;
        steps(&mut page, chain)?;
    }
    if let Some(nearest) = &why.nearest {
        page.line(&format!("{} does not depend on {}", why.from, why.to))?;
        return text_of_nearest(&mut page, why, nearest);
    }
    let least = if why.at_least { "at least " } else { "" };
    let count = usize::try_from(why.count).unwrap_or(usize::MAX);
    page.line(&format!("{least}{} in all", counted(count, "chain", "chains")))
}

fn steps(page: &mut Page<'_, '_>, chain: &[ChainLink]) -> io::Result<()> {
    if let Some(first) = chain.first() {
        page.row("", 0, &words::thing(&first.from), None)?;
    }
    for step in chain {
        let how = words::link(page.wiring, &step.how);
        page.row("└─", 2, &format!("{}    ({how})", words::thing(&step.to)), step.place.as_ref())?;
    }
    Ok(())
}

fn text_of_nearest(page: &mut Page<'_, '_>, why: &Why, nearest: &Nearest) -> io::Result<()> {
    match nearest {
        Nearest::Reversed(chain) => {
            page.line("it is the other way round:")?;
            steps(page, chain)
        }
        Nearest::BreaksOff { chain, need } => {
            page.line("the nearest way ends here:")?;
            steps(page, chain)?;
            let (holder, aim) = (words::thing(&need.holder), words::aim(&need.aim));
            let gets = words::gets(page.wiring, &need.gets);
            let text = format!("{holder} needs {aim} in {}: {gets}", need.slot);
            page.row("", 0, &text, Some(&need.place))
        }
        Nearest::Apart { reached, users } => {
            let reached = counted(*reached, "service", "services");
            let users = counted(*users, "thing comes", "things come");
            page.line(&format!(
                "{} comes to use {reached}, itself included; {users} to use {}; nothing is in both",
                why.from, why.to
            ))
        }
    }
}
