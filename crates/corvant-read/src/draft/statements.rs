//! Files of plain lines, each of which says one thing: `part depot.gate velmora.depot.Gate needs depot.lock, depot.lamp`, or
//! `depot.gate -> depot.lock`. The word that a line begins with says what it is about, others inside it what stands behind them.

use super::clauses::{Clause, Form, Leaves, PLACES, Piece};
use super::columns;
use super::families::{Family, last_ending};
use super::files::{COMMENT, Document};
use super::flat::together;
use super::lines::text;
use super::shape::{Collection, IdFrom, Leaf, Looking, Spot};
use super::study::begins_with_type;
use crate::custom::ReaderSyntax;
use crate::syntax::{NodeId, NodeKind, Tree, lines};
use corvant_core::source::Span;
use foldhash::{HashMap, HashSet};
use regex::escape;
use std::collections::{BTreeMap, BTreeSet};

/// Words that lines begin with, at most.
const WORDS: usize = 12;
/// Lines that are looked at to guess how all are written.
const LOOKED_AT: usize = 40;
/// Fewer lines say nothing.
const FEW: usize = 3;
/// Lines of which at least one has a word that says what stands behind it.
const RARE: usize = 40;
/// Lines of which at least one has a type.
const TYPED: usize = 20;
/// Bytes of a word that says what a line is about.
const WORD: usize = 20;

/// What lines say, by what they begin with.
#[derive(Debug)]
pub(super) struct Statements {
    /// The words that lines of these items begin with; an empty one: they begin with the id.
    pub(super) words: Vec<String>,
    /// How many lines there are of these items.
    pub(super) lines: usize,
    /// By path of a field where it stands in a line.
    pub(super) clauses: BTreeMap<String, Clause>,
    /// The sign between columns.
    sign: Option<char>,
    /// A field that lines must have, as it stands in a reader.
    condition: Option<String>,
}

impl Statements {
    /// What lines that begin with a word fulfil, as it stands in a reader.
    pub(super) fn condition(&self, word: &str) -> Option<String> {
        let begins = || format!("{{ from = \"$\", match = {} }}", text(&format!(r"^{}\s", escape(word))));
        self.condition.clone().or_else(|| (!word.is_empty()).then(begins))
    }

    /// The field with the id of a line that begins with a word, without its braces.
    pub(super) fn id(&self, word: &str) -> String {
        let expression = match self.sign {
            Some(sign) => {
                let [before, own, behind] = columns::around(sign, 0);
                format!("{before}({own}){behind}")
            }
            None if word.is_empty() => r"^(\S+)".to_owned(),
            None => format!(r"^{}\s+(\S+)", escape(word)),
        };
        format!("from = \"$\", match = {}", text(&expression))
    }
}

/// The sign that parts the columns of some lines, if they have such. A comma stands in other lines too.
fn sign_of(lines: &[&str]) -> Option<char> {
    columns::sign(lines).or_else(|| if are_statements(lines) { None } else { columns::comma(lines) })
}

/// The sign between the columns of a text, if its lines have such.
pub(super) fn sign(text: &str) -> Option<char> {
    sign_of(&first_lines(text))
}

/// Whether the first lines of a text may be those of one in which each says one thing.
pub(super) fn are_told(first: &[&str]) -> bool {
    are_statements(first) || sign_of(first).is_some()
}

/// The first lines of a text that are no comments.
pub(super) fn first_lines(text: &str) -> Vec<&str> {
    let lines = text.lines().map(str::trim_end);
    lines.filter(|line| !line.is_empty() && !line.starts_with(['#', ';'])).take(LOOKED_AT).collect()
}

/// Whether lines begin with few words, or have one sign behind what they begin with.
fn are_statements(first: &[&str]) -> bool {
    let tokens: Vec<Vec<&str>> = first.iter().map(|line| line.split_whitespace().take(4).collect()).collect();
    let firsts: HashSet<&str> = tokens.iter().filter_map(|tokens| tokens.first().copied()).collect();
    let are_long = tokens.iter().all(|tokens| tokens.len() > 1);
    have_one_sign(&tokens) || first.len() >= FEW && are_long && are_words(&firsts, first.len())
}

/// Whether all lines have one sign in their second or third place, and something behind it.
fn have_one_sign<'l>(lines: &[Vec<&'l str>]) -> bool {
    let sign = |tokens: &Vec<&'l str>, place: usize| -> Option<&'l str> {
        tokens.get(place).copied().filter(|text| !text.contains(char::is_alphanumeric))
    };
    let has_sign = |place: usize| {
        let first = lines.first().and_then(|tokens| sign(tokens, place));
        first.is_some() && lines.iter().all(|tokens| sign(tokens, place) == first && tokens.len() > place + 1)
    };
    (1..3).any(has_sign)
}

/// Whether texts are words that several lines begin with.
fn are_words(firsts: &HashSet<&str>, lines: usize) -> bool {
    let is_word = |text: &&str| {
        text.len() <= WORD && text.chars().all(|letter| letter.is_alphabetic() || letter == '-')
    };
    firsts.len() <= WORDS && firsts.len() * 2 <= lines && firsts.iter().all(is_word)
}

/// The lines of a text, each a list of what stands in its columns, or between spaces; what has commas between is one then.
pub(super) fn parse(source: &str, sign: Option<char>) -> Tree<'_> {
    let mut tree = Tree::new(source);
    tree.open(NodeKind::List, Span::new(0, source.len()));
    for line in lines::lines(source).filter(|line| !line.text.starts_with(COMMENT)) {
        tree.open(NodeKind::List, line.span);
        let start = line.span.start as usize;
        let tokens = sign.map_or_else(|| tokens(line.text), |sign| columns::cells(line.text, sign));
        for (from, token) in tokens {
            let span = Span::new(start + from, start + from + token.len());
            tree.scalar(NodeKind::Text, span, token);
        }
        tree.close(line.span.end);
    }
    tree.close(source.len() as u32);
    tree
}

/// What stands between spaces in a line, with where it begins; spaces behind commas and between brackets part nothing.
fn tokens(line: &str) -> Vec<(usize, &str)> {
    let mut found: Vec<(usize, usize)> = Vec::new();
    let mut open = 0_usize;
    for word in line.split_whitespace() {
        let from = word.as_ptr() as usize - line.as_ptr() as usize;
        let goes_on = open > 0 || found.last().is_some_and(|(from, end)| line[*from..*end].ends_with(','));
        match found.last_mut().filter(|_| goes_on || word.starts_with(',')) {
            Some((_, end)) => *end = from + word.len(),
            None => found.push((from, from + word.len())),
        }
        open = (open + word.matches('(').count()).saturating_sub(word.matches(')').count());
    }
    found.into_iter().map(|(from, end)| (from, &line[from..end])).collect()
}

/// What lines of a document begin with, where that says what they are about; else what stands behind it, or how many columns
/// they have.
pub(super) fn beginnings<'d>(Document { tree, root, sign, .. }: &'d Document<'_>) -> Vec<&'d str> {
    let lines = || tree.children(*root).filter(|&line| tree.kind(line) == NodeKind::List);
    if sign.is_some() {
        return lines().map(|line| columns::number(tree.children(line).count())).collect();
    }
    let token =
        |line: NodeId, place: usize| tree.children(line).nth(place).map_or("", |token| tree.text(token));
    let firsts: Vec<&str> = lines().map(|line| token(line, 0)).collect();
    if are_words(&firsts.iter().copied().collect(), firsts.len()) {
        return firsts;
    }
    lines().map(|line| token(line, 1)).collect()
}

/// Whether the first lines of a text name a type.
pub(super) fn name_types(text: &str) -> bool {
    let is_between = |sign: char| sign.is_whitespace() || "|;,".contains(sign);
    first_lines(text).iter().any(|line| line.split(is_between).any(names_type))
}

/// Whether a token names a type; paths look like types too.
fn names_type(token: &str) -> bool {
    token.contains(['.', '\\', ':']) && begins_with_type(token)
}

/// The endings of files of lines a good part of which name types.
pub(super) fn endings_with_types(families: &[Family<'_>]) -> HashSet<String> {
    let mut counts: HashMap<&str, (usize, usize)> = HashMap::default();
    for family in families.iter().filter(|family| family.syntax == ReaderSyntax::Lines) {
        let (typed, all) = counts.entry(last_ending(&family.glob)).or_default();
        for Document { tree, root, .. } in &family.documents {
            let has_type = |&line: &NodeId| {
                tree.kind(line) == NodeKind::List
                    && tree.children(line).any(|token| names_type(tree.text(token)))
            };
            *typed += tree.children(*root).filter(has_type).count();
            *all += tree.children(*root).count();
        }
    }
    let are_many = |(typed, all): &(usize, usize)| *typed >= FEW && typed * TYPED >= *all;
    counts.into_iter().filter(|(_, counts)| are_many(counts)).map(|(ending, _)| ending.to_owned()).collect()
}

/// A line: what it begins with if that is a word, the id, and what follows.
struct Line<'l> {
    word: &'l str,
    id: Spot,
    rest: Vec<Spot>,
    spot: Spot,
}

impl Looking<'_, '_> {
    /// Puts lines together that speak of the same things.
    pub(super) fn statements(&mut self) {
        let sign = self.family.documents[0].sign;
        let mut all: Vec<(Spot, Vec<Spot>)> = self
            .roots()
            .into_iter()
            .flat_map(|root| self.elements(root))
            .map(|line| (line, self.elements(line).collect::<Vec<_>>()))
            .filter(|(_, tokens)| tokens.len() > 1)
            .collect();
        let heads = sign.and_then(|sign| self.heads(&all, sign));
        all.retain(|(line, _)| !heads.as_ref().is_some_and(|heads| heads.lines.contains(&line.place())));
        let lines = self.lines(all, sign.is_some());
        let mut words_of: HashMap<&str, BTreeSet<&str>> = HashMap::default();
        for line in &lines {
            words_of.entry(self.text(line.id)).or_default().insert(line.word);
        }
        let condition = heads.map(|heads| heads.condition);
        let of_sort = |words: &BTreeSet<&str>| self.of_sort(words, &lines, (sign, condition.as_ref()));
        let collections: Vec<Collection> = together(words_of.values()).iter().map(of_sort).collect();
        drop(lines);
        self.shape.collections = collections;
    }

    /// Lines in columns, or that begin with words or have a sign inside; none, if they do not.
    fn lines(&self, all: Vec<(Spot, Vec<Spot>)>, have_columns: bool) -> Vec<Line<'_>> {
        let firsts: HashSet<&str> = all.iter().map(|(_, tokens)| self.text(tokens[0])).collect();
        let have_words = !have_columns && are_words(&firsts, all.len());
        let texts =
            |(_, tokens): &(Spot, Vec<Spot>)| tokens.iter().take(4).map(|&token| self.text(token)).collect();
        if !have_columns && !have_words && !have_one_sign(&all.iter().map(texts).collect::<Vec<_>>()) {
            return Vec::new();
        }
        let line = |(spot, tokens): (Spot, Vec<Spot>)| {
            let word = if have_words { self.text(tokens[0]) } else { "" };
            let id = tokens[usize::from(have_words)];
            Line { word, id, rest: tokens[1 + usize::from(have_words)..].to_vec(), spot }
        };
        all.into_iter().map(line).collect()
    }

    /// All that lines which begin with some words say.
    fn of_sort(
        &self,
        words: &BTreeSet<&str>,
        lines: &[Line<'_>],
        (sign, condition): (Option<char>, Option<&String>),
    ) -> Collection {
        let own = || lines.iter().filter(|line| words.contains(line.word));
        let mut numbers: HashMap<&str, usize> = HashMap::default();
        let mut items: Vec<Spot> = Vec::new();
        for line in own() {
            numbers.entry(self.text(line.id)).or_insert_with(|| {
                items.push(line.spot);
                items.len() - 1
            });
        }
        let mut statements = Statements {
            words: words.iter().map(|word| (*word).to_owned()).collect(),
            lines: own().count(),
            clauses: BTreeMap::new(),
            sign,
            condition: condition.cloned(),
        };
        let mut collection = Collection {
            each: "$[*]".to_owned(),
            ids: vec![IdFrom::Said(!words.contains(""))],
            items,
            ..Collection::default()
        };
        for word in words {
            let of_word: Vec<&Line<'_>> = own().filter(|line| line.word == *word).collect();
            let pieces = match sign {
                Some(sign) => self.columns_of(&of_word, sign),
                None => self.pieces(word, &of_word),
            };
            for piece in pieces {
                let leaf = |(id, spot): (Spot, Spot)| Leaf { item: numbers[self.text(id)], spot };
                collection.fields.insert(piece.path.clone(), piece.leaves.into_iter().map(leaf).collect());
                statements.clauses.insert(piece.path, piece.clause);
            }
        }
        collection.statements = Some(statements);
        collection
    }

    /// What stands in the columns of lines.
    fn columns_of(&self, lines: &[&Line<'_>], sign: char) -> Vec<Piece> {
        let columns = lines.iter().map(|line| line.rest.len()).max().unwrap_or_default();
        let piece = |column: usize| {
            let there = lines.iter().filter_map(|line| Some((line.id, *line.rest.get(column)?)));
            let leaves = there.filter(|(_, token)| !self.text(*token).is_empty()).collect();
            Piece::of_column(column, columns::around(sign, column + 1), leaves)
        };
        (0..columns.min(PLACES.len())).map(piece).collect()
    }

    /// What stands in lines that begin with a word, piece by piece.
    fn pieces(&self, word: &str, lines: &[&Line<'_>]) -> Vec<Piece> {
        let inside = self.words_inside(lines);
        let is_inside = |token: &Spot| inside.contains(self.text(*token));
        let mut heads: Vec<Leaves> = Vec::new();
        let mut behind: BTreeMap<&str, Leaves> = BTreeMap::new();
        for line in lines {
            let end = line.rest.iter().position(is_inside).unwrap_or(line.rest.len());
            heads.push(line.rest[..end].iter().map(|&token| (line.id, token)).collect());
            let mut current = "";
            for &token in &line.rest[end..] {
                match inside.get(self.text(token)) {
                    Some(word) => current = word,
                    None => behind.entry(current).or_default().push((line.id, token)),
                }
            }
        }
        let mut form = Form::new(word, &inside);
        let columns = heads.first().map_or(0, Vec::len);
        let mut pieces = Vec::new();
        if columns <= PLACES.len() && heads.iter().all(|head| head.len() == columns) {
            for column in 0..columns {
                let leaves: Leaves = heads.iter().map(|tokens| tokens[column]).collect();
                let has_space = leaves.iter().any(|(_, token)| self.text(*token).contains(' '));
                pieces.push(form.column(column, has_space, leaves));
            }
        } else {
            pieces.push(form.head(heads.into_iter().flatten().collect()));
        }
        pieces.extend(behind.into_iter().map(|(inner, leaves)| form.behind(inner, leaves)));
        pieces
    }

    /// Words and signs inside of lines that say what stands behind them: several lines have them, and never last, nor two of them
    /// in a row.
    fn words_inside(&self, lines: &[&Line<'_>]) -> BTreeSet<&str> {
        let ids: HashSet<&str> = lines.iter().map(|line| self.text(line.id)).collect();
        let may_be = |token: &str| {
            token.len() <= WORD
                && (token.chars().all(|letter| letter.is_lowercase() || letter == '-')
                    || !token.contains(char::is_alphanumeric))
        };
        let mut counts: HashMap<&str, usize> = HashMap::default();
        let mut last: HashSet<&str> = HashSet::default();
        for line in lines {
            for &token in &line.rest {
                *counts.entry(self.text(token)).or_default() += 1;
            }
            last.extend(line.rest.last().map(|&token| self.text(token)));
        }
        let is_one = |(token, count): &(&str, usize)| {
            *count >= FEW
                && *count * RARE >= lines.len()
                && may_be(token)
                && !ids.contains(token)
                && !last.contains(token)
        };
        let words: BTreeSet<&str> = counts.into_iter().filter(is_one).map(|(token, _)| token).collect();
        let in_a_row = |line: &&&Line<'_>| {
            line.rest.windows(2).any(|two| two.iter().all(|&token| words.contains(self.text(token))))
        };
        if lines.iter().any(|line| in_a_row(&line)) { BTreeSet::new() } else { words }
    }
}
