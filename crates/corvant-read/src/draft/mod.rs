//! Drafts of custom readers for files that nobody has described, made from the files themselves.
//!
//! [`draft`] looks through a folder once and puts files together that belong together. What holds items is found from shapes
//! alone, which values name items from the names themselves, and what items are from who asks for whom. Nothing is known by
//! its name: the same files with all words exchanged give the same draft. Each line says what speaks for it, and what nothing
//! speaks for is left in a comment.

mod clauses;
mod code;
mod columns;
mod definitions;
mod edges;
mod elements;
mod families;
mod files;
mod flat;
mod grouped;
mod ids;
mod likeness;
mod lines;
mod links;
mod module;
mod names;
mod nested;
mod own;
mod pairs;
mod parts;
mod pattern;
mod references;
mod roles;
mod rows;
mod sections;
mod shape;
mod statements;
mod study;
mod supplied;
mod tables;
mod whole;
mod write;
mod xml;

pub use files::Seen;
pub use supplied::{Supplied, supplied};

use crate::custom::ReaderSyntax;
use crate::discover;
use crate::native::workspace_file::Settings;
use crate::plan::Plan;
use foldhash::HashSet;
use rayon::prelude::*;
use std::path::Path;

/// What a folder holds, and the readers for it.
#[derive(Debug, Default)]
pub struct Draft {
    /// What was seen.
    pub seen: Seen,
    /// Families of files that look like definitions.
    pub families: Vec<FamilyDraft>,
    /// Families that may hold definitions for all that can be seen, and of which nothing says so: the pattern of each, and how
    /// many files it has.
    pub doubtful: Vec<(String, usize)>,
    /// Families that hold definitions, and lie among other files so that no few patterns fit them alone.
    pub scattered: Vec<(String, usize)>,
    /// Names that the host may bring: of what an audit with the readers finds missing.
    pub supplied: Vec<Supplied>,
}

impl Draft {
    /// The draft as it stands in a workspace file.
    pub fn text(&self) -> String {
        let readers = self.families.iter().map(|family| family.text.clone());
        let supplied = (!self.supplied.is_empty()).then(|| supplied::table(&self.supplied));
        // A table that is no list of tables stands before those.
        supplied.into_iter().chain(readers).collect::<Vec<_>>().join("\n")
    }
}

/// What was made of a family.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct FamilyDraft {
    /// What its reader is called.
    pub name: String,
    /// The pattern of its files.
    pub glob: String,
    /// Its syntax, as readers call it.
    pub syntax: &'static str,
    /// How many files.
    pub files: usize,
    /// How many items of each sort, by the word for it.
    pub items: Vec<(&'static str, usize)>,
    /// Of names that stand where references do, those that are defined somewhere, and all.
    pub known: (usize, usize),
    /// Lines that are not sure, as they stand in the draft.
    pub unsure: Vec<String>,
    /// Its reader, as it stands in a workspace file.
    pub text: String,
}

/// Drafts readers for the files below a folder that nobody reads yet, as far as its workspace file says who reads what.
pub fn draft(root: &Path) -> Draft {
    let plan = crate::workspace::plan_below(root).unwrap_or_else(|_| Plan::new(&mut Settings::default()));
    let mut draft = Draft::default();
    let mut found = discover::discover(root, &Plan::of_everything()).manifests;
    found.retain(|file| file.is_regular && plan.scope.includes(&file.relative));
    let texts = files::texts(&found, &plan, &mut draft.seen);
    let paths: Vec<&str> = found.iter().map(|file| file.relative.as_str()).collect();
    let mut draft = draft_texts(&texts, &paths, draft);
    draft.families.extend(code::families(&found, &plan));
    draft
}

/// The same for files in memory: pairs of path and text.
pub fn draft_of<'text>(files: impl IntoIterator<Item = (&'text str, &'text str)>) -> Draft {
    let plan = Plan::new(&mut Settings::default());
    let mut files: Vec<(&str, &str)> = files.into_iter().collect();
    files.sort_unstable_by_key(|(path, _)| *path);
    let paths: Vec<&str> = files.iter().map(|(path, _)| *path).collect();
    let wanted = files.iter().filter(|(path, _)| !plan.is_wanted(path));
    let texts: Vec<files::Text> =
        wanted.filter_map(|(path, text)| files::Text::new((*path).to_owned(), (*text).to_owned())).collect();
    let endings = files::endings_of_lines(&texts);
    let is_told = |text: &files::Text| {
        text.syntax != ReaderSyntax::Lines || endings.contains(families::last_ending(&text.path))
    };
    let texts: Vec<files::Text> = texts.into_iter().filter(is_told).collect();
    let seen = Seen { candidates: texts.len(), ..Seen::default() };
    draft_texts(&texts, &paths, Draft { seen, ..Draft::default() })
}

/// What files hold, and the ids of that.
fn shapes(
    families: &[families::Family<'_>],
    names: &names::Names<'_>,
) -> (Vec<shape::Shape>, Vec<Vec<ids::Made>>) {
    let nothing = HashSet::default();
    let mut shapes: Vec<shape::Shape> =
        families.par_iter().map(|family| shape::shape(family, names, &nothing)).collect();
    let made = ids::made(families, &shapes, names);
    let asking = |(shape, made): (&shape::Shape, &Vec<ids::Made>)| -> HashSet<String> {
        let asking = shape.collections.iter().zip(made).filter(|(_, made)| made.are_asking);
        let asking = asking.map(|(collection, _)| collection.each.as_str());
        asking.chain(edges::of_nothing(shape, made)).map(str::to_owned).collect()
    };
    let no_items: Vec<HashSet<String>> = shapes.iter().zip(&made).map(asking).collect();
    if no_items.iter().all(HashSet::is_empty) {
        return (shapes, made);
    }
    let looked_at = families.par_iter().zip(&mut shapes).zip(&no_items);
    looked_at.filter(|(_, no_items)| !no_items.is_empty()).for_each(|((family, shape), no_items)| {
        *shape = shape::shape(family, names, no_items);
    });
    let made = ids::made(families, &shapes, names);
    (shapes, made)
}

/// `paths` are those of all files that there are, whoever reads them.
fn draft_texts(texts: &[files::Text], paths: &[&str], mut draft: Draft) -> Draft {
    let parsed = files::parse(texts, &mut draft.seen);
    let names = paths.iter().filter_map(|path| path.rsplit('/').next());
    let stems: HashSet<&str> = names.filter_map(|name| name.split('.').next()).collect();
    // A pattern may fit what cannot be read: that has to be told.
    let broken: HashSet<&str> = draft.seen.broken.iter().map(String::as_str).collect();
    let others = families::Paths::new(paths.iter().copied().filter(|path| !broken.contains(path)));
    let mut families = families::families(texts, parsed);
    // Lines are written by anything, and what they name says nothing of others then.
    let typed = statements::endings_with_types(&families);
    let is_told = |family: &families::Family<'_>| {
        family.syntax != ReaderSyntax::Lines || typed.contains(families::last_ending(&family.glob))
    };
    families.retain(is_told);
    while !families.is_empty() {
        let names = names::Names::of(&families);
        let (shapes, made) = shapes(&families, &names);
        let pairs = pairs::pairs(&families, &shapes, &made);
        let mut study = study::Study::new(&families, &shapes, (&made, &pairs), &names);
        // What says which of some names another is has no ids of its own, unless nobody offers those names; nor has what says
        // more of the items of another.
        let (mappings, parallel) = (tables::mappings(&study), tables::parallel(&study));
        let apart = |those: &HashSet<study::At>| those.iter().chain(parallel.keys()).copied().collect();
        study = study.without_ids_of(&apart(&mappings));
        let modules = module::modules(&study);
        let mut links = links::links(&study, &modules);
        let choices = roles::choices(&study, &links, &mappings);
        if choices != mappings {
            study = study.without_ids_of(&apart(&choices));
            links = links::links(&study, &modules);
        }
        let roles = roles::roles(&study, &links, &choices, &parallel);
        let own = module::Own::new(&study, &modules);
        let holds = definitions::definitions(&study, &links, &roles, (&own, &stems));
        let patterns =
            families.iter().zip(&holds).map(|(family, holds)| holds.then(|| others.patterns(family))?);
        let patterns: Vec<Option<Vec<String>>> = patterns.collect();
        if let Some(first) = others.together(&families, &patterns, &holds) {
            families = families::joined(families, &first);
            continue;
        }
        let stays: Vec<bool> = patterns.iter().map(Option::is_some).collect();
        if stays.iter().all(|stays| *stays) {
            let patterns: Vec<Vec<String>> = patterns.into_iter().flatten().collect();
            write::write(&study, &links, &roles, (&modules, &own), &patterns, &mut draft);
            break;
        }
        // What holds none says nothing of what the others are.
        let with_items = shapes.iter().map(|shape| !shape.collections.is_empty());
        for (((family, stays), holds), has_items) in families.iter().zip(&stays).zip(holds).zip(with_items) {
            if !stays && has_items {
                let of = if holds { &mut draft.scattered } else { &mut draft.doubtful };
                of.push((family.glob.clone(), family.files()));
            }
        }
        let mut stays = stays.into_iter();
        families.retain(|_| stays.next().unwrap_or_default());
    }
    draft.doubtful.sort();
    draft.scattered.sort();
    draft
}
