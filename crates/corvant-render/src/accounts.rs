//! Accounts: what each reader took from each file, and what it left over.

use crate::out::{Out, safe};
use crate::text::words::counted;
use crate::text::{BOLD, Layout};
use corvant_core::account::{Account, Lookalike, TreeLine};
use corvant_core::finding::BlindSpot;
use std::collections::BTreeMap;
use std::io::{self, Write};

/// What Corvant's own format is called where readers are named.
pub(crate) const OWN: &str = "Corvant's own format";

/// Letters of a value that are shown in a tree.
const WIDEST: usize = 100;

/// Writes accounts for people: file by file, reader by reader, and what was not looked at.
pub fn text(
    accounts: &[Account],
    blind_spots: &[BlindSpot],
    layout: Layout,
    out: &mut Out<'_>,
) -> io::Result<()> {
    for account in accounts {
        let reader = account.reader.as_deref().unwrap_or(OWN);
        let module = account.module.as_ref().map(|module| format!(", module {}", safe(module)));
        layout.paint(out, BOLD, &safe(&account.path))?;
        writeln!(out)?;
        writeln!(out, "  read by  {}{}", safe(reader), module.unwrap_or_default())?;
        if let Some(why) = &account.unread {
            writeln!(out, "  unread   {}", safe(why))?;
            continue;
        }
        writeln!(out, "  took     {}", took(account))?;
        left_over(account, out)?;
        lookalikes(account, out)?;
        for line in account.tree.iter().flatten() {
            tree_line(line, layout, out)?;
        }
    }
    writeln!(out)?;
    readers(accounts, out)?;
    if !blind_spots.is_empty() {
        writeln!(out, "not looked at:")?;
    }
    for spot in blind_spots {
        writeln!(out, "  {}: {}", safe(&spot.subject), safe(&spot.message))?;
    }
    Ok(())
}

fn left_over(account: &Account, out: &mut Out<'_>) -> io::Result<()> {
    let mut word = "left";
    for left in &account.left_over {
        let values = counted(left.count, "value", "values");
        writeln!(out, "  {word:<8} {}  {values}, first in line {}", safe(&left.path), left.line)?;
        word = "";
    }
    Ok(())
}

/// One value of a tree: `>` before an item, `+` before what was taken.
fn tree_line(line: &TreeLine, layout: Layout, out: &mut Out<'_>) -> io::Result<()> {
    let mark = match (line.is_item, line.is_taken) {
        (true, _) => '>',
        (false, true) => '+',
        (false, false) => ' ',
    };
    let indent = "  ".repeat(line.depth);
    write!(out, "{:>6} {mark} {indent}", line.line)?;
    let key = format!("{}:", safe(&line.key));
    if line.is_item || line.is_taken {
        layout.paint(out, BOLD, &key)?;
    } else {
        write!(out, "{key}")?;
    }
    match &line.text {
        Some(text) => {
            let text: String =
                text.split_whitespace().collect::<Vec<_>>().join(" ").chars().take(WIDEST).collect();
            writeln!(out, " {}", safe(&text))
        }
        None => writeln!(out),
    }
}

/// Values that may be meant as references.
fn lookalikes(account: &Account, out: &mut Out<'_>) -> io::Result<()> {
    let mut word = "perhaps";
    for Lookalike { text, is_id, line } in &account.lookalikes {
        let what = if *is_id {
            "is the id of a service, and no reference"
        } else {
            "looks like a reference, and is none"
        };
        writeln!(out, "  {word:<8} {}  {what}, in line {line}", safe(text))?;
        word = "";
    }
    Ok(())
}

/// A line for each reader.
fn readers(accounts: &[Account], out: &mut Out<'_>) -> io::Result<()> {
    let mut readers: BTreeMap<&str, (usize, usize, usize)> = BTreeMap::new();
    for account in accounts {
        let total = readers.entry(account.reader.as_deref().unwrap_or(OWN)).or_default();
        total.0 += 1;
        total.1 += account.taken.iter().map(|(_, count)| count).sum::<usize>();
        total.2 += account.left_over.iter().map(|left| left.count).sum::<usize>();
    }
    for (reader, (files, things, left)) in readers {
        let files = counted(files, "file", "files");
        let things = counted(things, "thing", "things");
        let left = if left > 0 { counted(left, "value", "values") } else { "nothing".to_owned() };
        writeln!(out, "{}: {files}, {things} taken, {left} left over", safe(reader))?;
    }
    Ok(())
}

fn took(account: &Account) -> String {
    let taken: Vec<String> =
        account.taken.iter().map(|(kind, count)| counted(*count, &singular(kind), kind)).collect();
    if taken.is_empty() { "nothing".to_owned() } else { taken.join(", ") }
}

/// The word for one of several things.
fn singular(kinds: &str) -> String {
    match kinds.split_once(' ') {
        Some((kinds, rest)) => format!("{} {rest}", singular(kinds)),
        None => kinds
            .strip_suffix("ies")
            .map_or_else(|| kinds.trim_end_matches('s').to_owned(), |stem| format!("{stem}y")),
    }
}
