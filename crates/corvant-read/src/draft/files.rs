//! What lies in a folder: files that may hold definitions, in families of those that belong together by their names.

use crate::custom::ReaderSyntax;
use crate::discover::FoundFile;
use crate::files::{self, TEXT_LIMIT};
use crate::plan::{Claim, Plan};
use crate::syntax::{NodeKind, Tree};
use rayon::prelude::*;
use std::collections::{BTreeMap, BTreeSet};
use std::path::PathBuf;

/// Most bytes of a file whose ending says nothing.
const UNKNOWN: u64 = 256 << 10;
/// Lines that are looked at to guess a syntax.
const LOOKED_AT: usize = 40;

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
    for file in found.iter().filter(|file| file.is_regular && plan.scope.includes(&file.relative)) {
        match plan.claim(&file.relative) {
            Some(Claim::Types(_)) => {}
            Some(_) => seen.manifests += 1,
            None => wanted.push((file.relative.clone(), file.path.clone())),
        }
    }
    let read = |(path, on_disk): (String, PathBuf)| {
        let known = ReaderSyntax::of_ending(&path);
        let most = if known.is_some() { TEXT_LIMIT } else { UNKNOWN };
        let text = String::from_utf8(files::read(&on_disk, most).ok()?).ok()?;
        Text::new(path, text)
    };
    let texts: Vec<Text> = wanted.into_par_iter().filter_map(read).collect();
    seen.candidates = texts.len();
    texts
}

/// The syntax that a file without a telling ending seems to be in, by how it begins: sections in brackets, or blocks of
/// fields.
fn seems(text: &str) -> Option<ReaderSyntax> {
    let lines =
        text.lines().map(str::trim_end).filter(|line| !line.is_empty() && !line.starts_with(['#', ';']));
    let first: Vec<&str> = lines.take(LOOKED_AT).collect();
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
    (first.len() > 2 && first.iter().filter(is_field).count() == first.len()).then_some(ReaderSyntax::Records)
}

/// A file as a tree.
#[derive(Debug)]
pub(super) struct Document<'t> {
    pub(super) path: &'t str,
    pub(super) tree: Tree<'t>,
}

/// Files that belong together.
#[derive(Debug)]
pub(super) struct Family<'t> {
    pub(super) syntax: ReaderSyntax,
    /// The pattern of their paths.
    pub(super) glob: String,
    pub(super) documents: Vec<Document<'t>>,
}

/// Files by families, each in the order of its paths.
pub(super) fn families<'t>(texts: &'t [Text], seen: &mut Seen) -> Vec<Family<'t>> {
    let parsed: Vec<Option<Document<'t>>> = texts
        .par_iter()
        .map(|text| {
            let tree =
                text.syntax.parse(&text.content, Some("#"), &crate::custom::Manners::default()).ok()?;
            Some(Document { path: &text.path, tree })
        })
        .collect();
    let mut by_pattern: BTreeMap<(&'static str, String), Vec<(ReaderSyntax, Document<'t>)>> = BTreeMap::new();
    let globs = globs(texts, &alike(texts, &parsed));
    for ((text, document), glob) in texts.iter().zip(parsed).zip(globs) {
        match document {
            Some(document) if document.tree.root().is_some() => {
                by_pattern.entry((text.syntax.word(), glob)).or_default().push((text.syntax, document));
            }
            Some(_) => {}
            None => seen.broken.push(text.path.clone()),
        }
    }
    let family = |((_, glob), documents): ((&str, String), Vec<(ReaderSyntax, Document<'t>)>)| {
        let syntax = documents[0].0;
        Family { syntax, glob, documents: documents.into_iter().map(|(_, document)| document).collect() }
    };
    by_pattern.into_iter().map(family).collect()
}

/// A pattern for each path: files of one name in many folders belong together, and so do files of one ending in one
/// folder, or in folders that only one part of their paths tells apart.
fn globs(texts: &[Text], alike: &BTreeSet<(String, usize)>) -> Vec<String> {
    let split = |path: &str| -> (Vec<String>, String) {
        let mut parts: Vec<String> = path.split('/').map(str::to_owned).collect();
        let name = parts.pop().unwrap_or_default();
        (parts, name)
    };
    let mut folders_of_name: BTreeMap<(String, usize), BTreeSet<Vec<String>>> = BTreeMap::new();
    let mut folders_of_ending: BTreeMap<(String, usize), BTreeSet<Vec<String>>> = BTreeMap::new();
    let mut names_in: BTreeMap<(Vec<String>, String), BTreeSet<String>> = BTreeMap::new();
    for text in texts {
        let (folder, name) = split(&text.path);
        let ending = ending(&name).to_owned();
        folders_of_name.entry((name.clone(), folder.len())).or_default().insert(folder.clone());
        folders_of_ending.entry((ending.clone(), folder.len())).or_default().insert(folder.clone());
        names_in.entry((folder, ending)).or_default().insert(name);
    }
    let glob = |text: &Text| {
        let (folder, name) = split(&text.path);
        let same_name = &folders_of_name[&(name.clone(), folder.len())];
        // Files of one shape are of one family, whatever they are called: their names tell items apart.
        if same_name.len() > 1 && !alike.contains(&(ending(&name).to_owned(), folder.len())) {
            return joined(&in_common(same_name), &name);
        }
        let ending = ending(&name);
        let same_ending = &folders_of_ending[&(ending.to_owned(), folder.len())];
        let alone = names_in[&(folder.clone(), ending.to_owned())].len() == 1;
        let common = if same_ending.len() > 1 { in_common(same_ending) } else { folder };
        if alone && same_ending.len() == 1 {
            joined(&common, &name)
        } else {
            joined(&common, &format!("*{ending}"))
        }
    };
    texts.iter().map(glob).collect()
}

/// Endings, with the depth of their folders, whose files have mostly the same keys at their roots under whatever name.
fn alike(texts: &[Text], parsed: &[Option<Document<'_>>]) -> BTreeSet<(String, usize)> {
    /// By key at the root the files that have it, and the names of those.
    type Keys = BTreeMap<String, (usize, BTreeSet<String>)>;
    let mut keys: BTreeMap<(String, usize), (usize, usize, Keys)> = BTreeMap::new();
    for (text, document) in texts.iter().zip(parsed) {
        let Some((tree, root)) =
            document.as_ref().and_then(|document| Some((&document.tree, document.tree.root()?)))
        else {
            continue;
        };
        let name = text.path.rsplit('/').next().unwrap_or_default();
        let (files, fields, keys) =
            keys.entry((ending(name).to_owned(), text.path.matches('/').count())).or_default();
        *files += 1;
        let is_map = tree.kind(root) == NodeKind::Map;
        for (key, _) in is_map.then(|| tree.fields(root)).into_iter().flatten() {
            let known = keys.entry(tree.text(key).to_owned()).or_default();
            known.0 += 1;
            known.1.insert(name.to_owned());
            *fields += 1;
        }
    }
    let is_alike = |(files, fields, keys): &(usize, usize, Keys)| {
        let names: BTreeSet<&String> = keys.values().flat_map(|(_, names)| names).collect();
        let of_most = keys.values().filter(|(count, of)| count * 2 > *files && of.len() * 2 > names.len());
        of_most.map(|(count, _)| count).sum::<usize>() * 2 > *fields
    };
    keys.into_iter().filter(|(_, seen)| is_alike(seen)).map(|(ending, _)| ending).collect()
}

/// All behind the first dot of a name, with that dot.
fn ending(name: &str) -> &str {
    name.find('.').map_or("", |dot| &name[dot..])
}

/// Folders of one depth as one, with stars for the parts that differ.
fn in_common(folders: &BTreeSet<Vec<String>>) -> Vec<String> {
    let mut folders = folders.iter();
    let mut common = folders.next().cloned().unwrap_or_default();
    for folder in folders {
        for (known, part) in common.iter_mut().zip(folder) {
            if known != part {
                "*".clone_into(known);
            }
        }
    }
    common
}

fn joined(folder: &[String], name: &str) -> String {
    if folder.is_empty() { name.to_owned() } else { format!("{}/{name}", folder.join("/")) }
}
