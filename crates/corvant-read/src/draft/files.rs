//! What lies in a folder: files that may hold definitions, as trees.

use super::families::last_ending;
use super::statements;
use crate::custom::{Manners, ReaderSyntax};
use crate::discover::FoundFile;
use crate::files::{self, TEXT_LIMIT};
use crate::plan::{Claim, Plan};
use crate::syntax::{NodeId, NodeKind, Tree, yaml};
use foldhash::HashSet;
use rayon::iter::Either;
use rayon::prelude::*;
use regex::Regex;
use std::path::PathBuf;
use std::sync::atomic::AtomicUsize;
use std::sync::atomic::Ordering::Relaxed;
use std::sync::{Arc, LazyLock};

/// Most bytes of a file whose ending says nothing.
const UNKNOWN: u64 = 256 << 10;

/// Bytes of all files of lines whose ending is that of some that name types; more are no definitions.
const LINES: usize = 64 << 20;

/// What comments begin with in records and lines.
pub(super) const COMMENT: &str = "#";

/// A value of YAML with a tag of its own.
static LOCAL_TAG: LazyLock<Regex> =
    LazyLock::new(|| Regex::new(r"(?m)(?:^|[\s\[{,])![A-Za-z]").expect("a constant"));

/// A file as it lies there.
#[derive(Debug)]
pub(super) struct Text {
    /// From the root, with `/`.
    pub(super) path: String,
    pub(super) syntax: ReaderSyntax,
    pub(super) content: String,
}

impl Text {
    /// `None`: it is in no syntax that readers may be drafted for.
    pub(super) fn new(path: String, mut content: String) -> Option<Self> {
        if content.starts_with('\u{feff}') {
            content.remove(0);
        }
        let syntax = ReaderSyntax::of_ending(&path).or_else(|| seems(&content))?;
        Some(Self { path, syntax, content })
    }

    /// Whether it is in a syntax of its own, or of lines that name types.
    fn is_told(&self) -> bool {
        self.syntax != ReaderSyntax::Lines || statements::name_types(&self.content)
    }
}

/// What was seen, by numbers.
#[derive(Debug, Default, Clone, PartialEq, Eq)]
pub struct Seen {
    /// Files that somebody reads already.
    pub manifests: usize,
    /// Files in a syntax that readers may be drafted for.
    pub candidates: usize,
    /// Of those the ones that could not be parsed, by path.
    pub broken: Vec<String>,
}

/// Reads all files of a folder whose syntax is known and that nobody reads yet.
pub(super) fn texts(found: &[FoundFile], plan: &Plan, seen: &mut Seen) -> Vec<Text> {
    let mut wanted = Vec::new();
    for file in found {
        match plan.claim(&file.relative) {
            Some(Claim::Types(_)) => {}
            Some(_) => seen.manifests += 1,
            None => wanted.push((file.relative.clone(), file.path.clone())),
        }
    }
    let read = |(path, on_disk): &(String, PathBuf)| {
        let known = ReaderSyntax::of_ending(path);
        let most = if known.is_some() { TEXT_LIMIT } else { UNKNOWN };
        let text = String::from_utf8(files::read(on_disk, most).ok()?).ok()?;
        Text::new(path.clone(), text)
    };
    // Lines are written by anything, and there may be many: those that name no types stay unread, unless others do.
    let bytes = AtomicUsize::new(0);
    let fits = |text: &Text| {
        text.syntax != ReaderSyntax::Lines || bytes.fetch_add(text.content.len(), Relaxed) <= LINES
    };
    let told = |file| {
        let text = read(file)?;
        Some(if text.is_told() && fits(&text) { Ok(text) } else { Err(file) })
    };
    let (untold, mut texts): (Vec<_>, Vec<Text>) =
        wanted.par_iter().filter_map(told).partition_map(Either::from);
    let endings = endings_of_lines(&texts);
    let again = untold.into_par_iter().filter(|(path, _)| endings.contains(last_ending(path)));
    texts.extend(again.filter_map(read).filter(fits).collect::<Vec<Text>>());
    if bytes.into_inner() > LINES {
        texts.retain(|text| text.syntax != ReaderSyntax::Lines);
    }
    texts.sort_by(|one, other| one.path.cmp(&other.path));
    seen.candidates = texts.len();
    texts
}

/// The endings of files of lines that name types.
pub(super) fn endings_of_lines(texts: &[Text]) -> HashSet<String> {
    let lines = texts.iter().filter(|text| text.syntax == ReaderSyntax::Lines && text.is_told());
    lines.map(|text| last_ending(&text.path).to_owned()).collect()
}

/// The syntax that a file without a telling ending seems to be in, by how it begins: sections in brackets, blocks of fields, or
/// lines that each say one thing.
fn seems(text: &str) -> Option<ReaderSyntax> {
    let first = statements::first_lines(text);
    if first.first()?.starts_with('[')
        && first[0].ends_with(']')
        && first.iter().any(|line| line.contains('='))
    {
        return Some(ReaderSyntax::Ini);
    }
    let is_field = |line: &&&str| {
        let name = line.split_once(": ").map_or("", |(name, _)| name);
        let is_name = |letter: char| letter.is_alphanumeric() || letter == '-' || letter == '_';
        name.starts_with(char::is_alphabetic) && name.chars().all(is_name)
    };
    // An indented line goes on with the field above.
    let goes_on = |line: &&&str| line.starts_with([' ', '\t']);
    let are_fields = is_field(&&first[0]) && first.iter().all(|line| is_field(&line) || goes_on(&line));
    if first.len() > 2 && are_fields {
        return Some(ReaderSyntax::Records);
    }
    let are_lines = !first.iter().any(|line| goes_on(&line)) && statements::are_told(&first);
    are_lines.then_some(ReaderSyntax::Lines)
}

/// A file as a tree, or a document of one.
#[derive(Debug, Clone)]
pub(super) struct Document<'t> {
    pub(super) path: &'t str,
    pub(super) tree: Arc<Tree<'t>>,
    pub(super) root: NodeId,
    /// How its file has to be read.
    pub(super) manner: yaml::Manner,
    /// The sign between columns, if it is one of lines with such.
    pub(super) sign: Option<char>,
}

/// By file its documents; what cannot be parsed has none, and is kept by its path.
pub(super) fn parse<'t>(texts: &'t [Text], seen: &mut Seen) -> Vec<Vec<Document<'t>>> {
    let parsed: Vec<Option<Vec<Document<'t>>>> = texts.par_iter().map(documents).collect();
    let broken = texts.iter().zip(&parsed).filter(|(_, parsed)| parsed.is_none());
    seen.broken.extend(broken.map(|(text, _)| text.path.clone()));
    parsed.into_iter().map(Option::unwrap_or_default).collect()
}

/// Whether a document is a schema by the open standard for such: it has names and references, and none means anything that runs.
fn is_schema(tree: &Tree<'_>, root: NodeId) -> bool {
    let said = (tree.kind(root) == NodeKind::Map).then(|| tree.field(root, "$schema")).flatten();
    said.is_some_and(|schema| tree.text(schema).contains("json-schema.org/"))
}

fn documents(text: &Text) -> Option<Vec<Document<'_>>> {
    let mut manners = Manners::default();
    if text.syntax == ReaderSyntax::Yaml {
        manners.yaml = yaml::Manner {
            local_tags: LOCAL_TAG.is_match(&text.content),
            documents: text.content.contains("\n---"),
        };
    }
    let manner = manners.yaml;
    let are_lines = text.syntax == ReaderSyntax::Lines;
    let sign = if are_lines { statements::sign(&text.content) } else { None };
    let tree = Arc::new(match text.syntax {
        ReaderSyntax::Lines => statements::parse(&text.content, sign),
        syntax => syntax.parse(&text.content, Some(COMMENT), &manners).ok()?,
    });
    let document = |root| Document { path: &text.path, tree: Arc::clone(&tree), root, manner, sign };
    let Some(root) = tree.root().filter(|root| !is_schema(&tree, *root)) else { return Some(Vec::new()) };
    Some(if manner.documents { tree.children(root).map(document).collect() } else { vec![document(root)] })
}
