//! Accounts: what each reader took from each file, and what it left over.

use crate::text::words::{counted, safe};
use corvant_core::account::Account;
use serde_json::{Value, json};
use std::collections::BTreeMap;
use std::io::{self, Write};

/// What Corvant's own format is called where readers are named.
pub(crate) const OWN: &str = "Corvant's own format";

/// How many ways of being left over are listed for a file.
const LISTED: usize = 12;

/// Writes accounts for people: file by file, then reader by reader.
pub fn text(accounts: &[Account], out: &mut impl Write) -> io::Result<()> {
    for account in accounts {
        let reader = account.reader.as_deref().unwrap_or(OWN);
        let module = account.module.as_ref().map(|module| format!(", module {}", safe(module)));
        writeln!(out, "{}", safe(&account.path))?;
        writeln!(out, "  read by  {}{}", safe(reader), module.unwrap_or_default())?;
        if let Some(why) = &account.unread {
            writeln!(out, "  unread   {}", safe(why))?;
            continue;
        }
        writeln!(out, "  took     {}", took(account))?;
        let mut word = "left    ";
        for left in account.left_over.iter().take(LISTED) {
            let values = counted(left.count, "value", "values");
            writeln!(out, "  {word} {}  {values}, first in line {}", safe(&left.path), left.line)?;
            word = "        ";
        }
        let more = account.left_over.len().saturating_sub(LISTED);
        if more > 0 {
            writeln!(out, "  {word} … and {more} more ways")?;
        }
    }
    writeln!(out)?;
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
        let left = counted(left, "value", "values");
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

/// Writes accounts for programs: a list of objects, one a file.
pub fn json(accounts: &[Account], out: &mut impl Write) -> io::Result<()> {
    let all: Vec<Value> = accounts.iter().map(one).collect();
    serde_json::to_writer_pretty(&mut *out, &all)?;
    out.write_all(b"\n")
}

fn one(account: &Account) -> Value {
    let left = account
        .left_over
        .iter()
        .map(|left| json!({ "path": left.path, "values": left.count, "line": left.line }));
    let taken: serde_json::Map<String, Value> =
        account.taken.iter().map(|(kind, count)| ((*kind).to_owned(), (*count).into())).collect();
    json!({
        "file": account.path,
        "reader": account.reader,
        "module": account.module,
        "taken": taken,
        "left_over": left.collect::<Vec<_>>(),
        "unread": account.unread,
    })
}
