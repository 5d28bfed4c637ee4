//! Where in lines something stands, as expressions.

use super::shape::Spot;
use foldhash::HashSet;
use regex::escape;
use std::collections::BTreeSet;

/// What pieces of a line are called that are told by their place; words in lines are in lower case.
pub(super) const PLACES: [char; 12] = ['A', 'B', 'C', 'D', 'E', 'F', 'G', 'H', 'I', 'J', 'K', 'L'];
/// An expression for what has spaces behind commas or between brackets.
const SPACED: &str = r"(?:,\s+|[^\s(]|\([^)]*\))+";

/// Where in a line something stands.
#[derive(PartialEq, Eq, Debug)]
pub(super) struct Clause {
    /// What the line begins with.
    pub(super) word: String,
    /// Expressions for what stands before it, for it, and for what stands behind it.
    around: [String; 3],
    /// Whether it may be several, with spaces between.
    pub(super) are_several: bool,
}

impl Clause {
    /// An expression whose first group is it, or the first group of a part of it.
    pub(super) fn expression(&self, part: Option<&str>) -> String {
        let [before, own, behind] = &self.around;
        part.map_or_else(|| format!("{before}({own}){behind}"), |part| format!("{before}{part}{behind}"))
    }
}

/// Tokens of lines, each with the id of its line.
pub(super) type Leaves = Vec<(Spot, Spot)>;

/// A piece of each of some lines, and what stands there.
pub(super) struct Piece {
    pub(super) path: String,
    pub(super) clause: Clause,
    pub(super) leaves: Leaves,
}

impl Piece {
    /// What stands in a column, with what stands around it.
    pub(super) fn of_column(column: usize, around: [String; 3], leaves: Leaves) -> Self {
        let clause = Clause { word: String::new(), around, are_several: false };
        Self { path: format!("$. {}", PLACES[column]), clause, leaves }
    }
}

/// How lines that begin with a word are written.
pub(super) struct Form<'f> {
    word: &'f str,
    /// An expression for what they begin with, the id included.
    start: String,
    /// The same with what stands before the first word inside.
    head: String,
    /// An expression for what stands behind a part.
    end: String,
    has_one_inside: bool,
}

impl<'f> Form<'f> {
    pub(super) fn new(word: &'f str, inside: &BTreeSet<&str>) -> Self {
        let start = if word.is_empty() { r"^\S+".to_owned() } else { format!(r"^{}\s+\S+", escape(word)) };
        let ends = inside.iter().map(|word| escape(word)).collect::<Vec<_>>().join("|");
        // One that is alone ends no other.
        let end = if inside.len() < 2 { "$".to_owned() } else { format!(r"(?:\s+(?:{ends})\s.*)?$") };
        Self { word, head: start.clone(), start, end, has_one_inside: inside.len() == 1 }
    }

    /// What stands in one place of each line; places are told from the first on.
    pub(super) fn column(&mut self, column: usize, has_space: bool, leaves: Leaves) -> Piece {
        let token = if has_space { SPACED } else { r"\S+" };
        let around = [format!(r"{}\s+", self.head), token.to_owned(), String::new()];
        self.head = format!(r"{}{token}", around[0]);
        self.piece(&format!(" {}", PLACES[column]), around, false, leaves)
    }

    /// All that stands before the first word inside.
    pub(super) fn head(&mut self, leaves: Leaves) -> Piece {
        let around = [format!(r"{}\s+", self.start), ".+?".to_owned(), self.end.clone()];
        self.head = format!(r"{}(?:\s.*)?", self.start);
        self.piece("", around, true, leaves)
    }

    /// What stands behind a word inside.
    pub(super) fn behind(&self, inner: &str, leaves: Leaves) -> Piece {
        let mut seen: HashSet<(usize, usize)> = HashSet::default();
        let are_several = leaves.iter().any(|(id, _)| !seen.insert(id.place()));
        let (before, own) = if self.has_one_inside {
            (format!(r"{}\s+{}\s+", self.head, escape(inner)), ".+")
        } else {
            (format!(r"{}\s(?:.*\s)?{}\s+", self.start, escape(inner)), ".+?")
        };
        self.piece(&format!(" {inner}"), [before, own.to_owned(), self.end.clone()], are_several, leaves)
    }

    fn piece(&self, name: &str, around: [String; 3], are_several: bool, leaves: Leaves) -> Piece {
        let word = self.word.to_owned();
        Piece { path: format!("$.{word}{name}"), clause: Clause { word, around, are_several }, leaves }
    }
}
