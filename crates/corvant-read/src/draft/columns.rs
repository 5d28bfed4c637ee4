//! Lines with columns: `depot.gate | velmora.depot.Gate | depot.lock, depot.lamp`.

use super::lines::text;
use super::shape::{Looking, Spot};
use super::study::SEPARATORS;
use foldhash::HashSet;

/// Signs that part columns, and one that parts names in lines that are written otherwise too.
const SIGNS: [char; 3] = ['|', ';', '\t'];
const COMMA: char = ',';
/// Columns of a line at most.
const COLUMNS: usize = 12;

/// The sign that parts the columns of some lines: each has it equally often, and begins with what has no space.
pub(super) fn sign(lines: &[&str]) -> Option<char> {
    SIGNS.into_iter().find(|&sign| parts(lines, sign))
}

/// A comma, if such part the columns of some lines.
pub(super) fn comma(lines: &[&str]) -> Option<char> {
    parts(lines, COMMA).then_some(COMMA)
}

fn parts(lines: &[&str], sign: char) -> bool {
    let count = |line: &str| line.matches(sign).count();
    let first = lines.first().map_or(0, |line| count(line));
    let begins = |line: &str| {
        let cell = line.split(sign).next().unwrap_or_default().trim();
        !cell.is_empty() && !cell.contains(char::is_whitespace)
    };
    (1..COLUMNS).contains(&first) && lines.iter().all(|line| count(line) == first && begins(line))
}

/// A word for how many columns there are.
pub(super) fn number(columns: usize) -> &'static str {
    const WORDS: [&str; COLUMNS] =
        ["one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"];
    WORDS[columns.clamp(1, COLUMNS) - 1]
}

/// What stands in the columns of a line, with where it begins.
pub(super) fn cells(line: &str, sign: char) -> Vec<(usize, &str)> {
    let cells = line.split(sign).map(str::trim);
    cells.map(|cell| (cell.as_ptr() as usize - line.as_ptr() as usize, cell)).collect()
}

/// Expressions for what stands before a column, in it and behind it.
pub(super) fn around(sign: char, column: usize) -> [String; 3] {
    let sign = match sign {
        '\t' => r"\t".to_owned(),
        sign => regex::escape(&sign.to_string()),
    };
    let before = match column {
        0 => "^".to_owned(),
        1 => format!(r"^[^{sign}]*{sign}\s*"),
        _ => format!(r"^(?:[^{sign}]*{sign}){{{column}}}\s*"),
    };
    [before, format!("[^{sign}]*?"), format!(r"\s*(?:{sign}|$)")]
}

/// The lines that say what stands in columns, and what all others fulfil.
pub(super) struct Heads {
    pub(super) lines: HashSet<(usize, usize)>,
    pub(super) condition: String,
}

impl Looking<'_, '_> {
    /// The first line of each file, where that says what stands in the columns: it is the same in all, and has a name of one part
    /// in a column where all others have names of several.
    pub(super) fn heads(&self, lines: &[(Spot, Vec<Spot>)], sign: char) -> Option<Heads> {
        let is_first = |(line, _): &&(Spot, Vec<Spot>)| {
            line.node.index() == self.family.documents[line.file].root.index() + 1
        };
        let cells =
            |tokens: &[Spot]| tokens.iter().map(|&token| self.text(token).to_owned()).collect::<Vec<_>>();
        let mut firsts = lines.iter().filter(is_first);
        let first = cells(&firsts.next()?.1);
        let is_word =
            |cell: &String| cell.chars().all(|letter| letter.is_alphabetic() || "-_ ".contains(letter));
        if !firsts.all(|(_, tokens)| cells(tokens) == first) || !first.iter().all(is_word) {
            return None;
        }
        let has_parts = |tokens: &[Spot], column: usize| {
            tokens.get(column).is_some_and(|&token| self.text(token).contains(SEPARATORS))
        };
        let others = || lines.iter().filter(|line| !is_first(line));
        others().next()?;
        let column =
            (0..first.len()).find(|&column| others().all(|(_, tokens)| has_parts(tokens, column)))?;
        let [before, own, _] = around(sign, column);
        let expression = format!(r"{before}{own}[.\\:/]");
        let lines = lines.iter().filter(is_first).map(|(line, _)| line.place()).collect();
        Some(Heads { lines, condition: format!("{{ from = \"$\", match = {} }}", text(&expression)) })
    }
}
