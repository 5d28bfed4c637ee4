//! What each file gave and what was left over, version 1.

use super::{Each, PROGRAM, Version, Worded};
use crate::out::Out;
use corvant_core::account::{Account, LeftOver, Lookalike, TreeLine};
use corvant_core::finding::{BlindSpot, BlindSpotKind};
use schemars::JsonSchema;
use serde::Serialize;
use std::collections::BTreeMap;
use std::io;

/// Writes an object for each file, and for all that was not looked at.
pub fn write(accounts: &[Account], blind_spots: &[BlindSpot], out: &mut Out<'_>) -> io::Result<()> {
    let document = AccountsDocument {
        corvant: PROGRAM,
        readers: Version,
        files: Each::new(accounts, AccountDocument::new),
        blind_spots: Each::new(blind_spots, |spot| NotLookedAt {
            kind: Worded(spot.kind),
            subject: &spot.subject,
            message: &spot.message,
        }),
    };
    super::write(&document, out)
}

/// Who reads each file, what is taken from it and what is left over.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "readers", deny_unknown_fields)]
pub struct AccountsDocument<'a> {
    /// The version of the program.
    corvant: &'static str,
    /// The version of this format.
    readers: Version<1>,
    files: Each<'a, Account, AccountDocument<'a>>,
    /// What was not looked at.
    blind_spots: Each<'a, BlindSpot, NotLookedAt<'a>>,
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "file", deny_unknown_fields)]
struct AccountDocument<'a> {
    /// Relative to the root, with `/`.
    file: &'a str,
    /// Null: Corvant's own format.
    reader: Option<&'a str>,
    /// The module that the file belongs to.
    module: Option<&'a str>,
    /// By kind how many things were taken.
    taken: BTreeMap<&'a str, usize>,
    left_over: Vec<LeftOverDocument<'a>>,
    /// Values that may be meant as references and are none.
    lookalikes: Vec<LookalikeDocument<'a>>,
    /// Why it could not be read, if so.
    unread: Option<&'a str>,
    /// What the reader sees of it, if that was asked for, each value before those in it.
    tree: Option<Vec<TreeLineDocument<'a>>>,
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "tree_line", deny_unknown_fields)]
struct TreeLineDocument<'a> {
    /// In how many others it stands.
    depth: usize,
    /// The key or number that it stands under; of what patterns match, the patterns.
    key: &'a str,
    /// Null: it is a list or a map.
    text: Option<&'a str>,
    line: u32,
    /// Whether it is an item of a take.
    is_item: bool,
    /// Whether a field looked at it.
    is_taken: bool,
}

impl<'a> TreeLineDocument<'a> {
    fn new(line: &'a TreeLine) -> Self {
        let TreeLine { depth, key, text, line, is_item, is_taken } = line;
        Self {
            depth: *depth,
            key,
            text: text.as_deref(),
            line: *line,
            is_item: *is_item,
            is_taken: *is_taken,
        }
    }
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "lookalike", deny_unknown_fields)]
struct LookalikeDocument<'a> {
    text: &'a str,
    /// Whether it is the id of a service as it stands; otherwise it begins or ends as references do.
    is_id: bool,
    line: u32,
}

impl<'a> LookalikeDocument<'a> {
    fn new(lookalike: &'a Lookalike) -> Self {
        let Lookalike { text, is_id, line } = lookalike;
        Self { text, is_id: *is_id, line: *line }
    }
}

impl<'a> AccountDocument<'a> {
    fn new(account: &'a Account) -> Self {
        let left_over =
            |left: &'a LeftOver| LeftOverDocument { path: &left.path, values: left.count, line: left.line };
        Self {
            file: &account.path,
            reader: account.reader.as_deref(),
            module: account.module.as_deref(),
            taken: account.taken.iter().copied().collect(),
            left_over: account.left_over.iter().map(left_over).collect(),
            lookalikes: account.lookalikes.iter().map(LookalikeDocument::new).collect(),
            unread: account.unread.as_deref(),
            tree: account.tree.as_ref().map(|tree| tree.iter().map(TreeLineDocument::new).collect()),
        }
    }
}

/// Values that nothing looked at, and that stand in the same way.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "left_over", deny_unknown_fields)]
struct LeftOverDocument<'a> {
    /// `*` stands for every key or position.
    path: &'a str,
    values: usize,
    /// The line of the first, from 1.
    line: u32,
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "blind_spot", deny_unknown_fields)]
struct NotLookedAt<'a> {
    kind: Worded<BlindSpotKind>,
    subject: &'a str,
    message: &'a str,
}
