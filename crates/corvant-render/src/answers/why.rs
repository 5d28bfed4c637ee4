//! How one thing comes to depend on another.

use super::{Page, with_place, write_json};
use crate::out::Out;
use crate::text::Layout;
use crate::text::words::counted;
use corvant_core::answers::why::{ChainLink, Nearest, Why};
use corvant_core::wiring::Wiring;
use serde_json::{Value, json};
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
        page.row("", 0, &first.from, None)?;
    }
    for step in chain {
        page.row("└─", 2, &format!("{}    ({})", step.to, step.how), step.place.as_ref())?;
    }
    Ok(())
}

fn text_of_nearest(page: &mut Page<'_, '_>, why: &Why, nearest: &Nearest) -> io::Result<()> {
    match nearest {
        Nearest::Reversed(chain) => {
            page.line("it is the other way round:")?;
            steps(page, chain)
        }
        Nearest::BreaksOff { chain, reason, place } => {
            page.line("the nearest way ends here:")?;
            steps(page, chain)?;
            page.row("", 0, reason, Some(place))
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

/// Writes chains for programs.
pub fn json(why: &Why, wiring: &Wiring, out: &mut Out<'_>) -> io::Result<()> {
    let step = |step: &ChainLink| {
        let object = json!({ "from": step.from, "to": step.to, "how": step.how, "for_building": step.is_for_building });
        with_place(wiring, object, step.place.as_ref())
    };
    let chain = |chain: &Vec<ChainLink>| chain.iter().map(step).collect::<Value>();
    let nearest = why.nearest.as_ref().map(|nearest| match nearest {
        Nearest::Reversed(steps) => json!({ "reversed": chain(steps) }),
        Nearest::BreaksOff { chain: steps, reason, place } => {
            let object = json!({ "chain": chain(steps), "reason": reason });
            json!({ "breaks_off": with_place(wiring, object, Some(place)) })
        }
        Nearest::Apart { reached, users } => json!({ "apart": { "reached": reached, "users": users } }),
    });
    let value = json!({
        "from": why.from,
        "to": why.to,
        "count": why.count,
        "at_least": why.at_least,
        "chains": why.chains.iter().map(chain).collect::<Value>(),
        "nearest": nearest,
    });
    write_json(&value, out)
}
