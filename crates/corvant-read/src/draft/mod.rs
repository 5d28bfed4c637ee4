//! Drafts of custom readers for files that nobody has described, made from the files themselves.
//!
//! [`draft`] looks through a folder once and puts files together that belong together. What holds items is found from shapes
//! alone, which values name items from the names themselves, and what items are from who asks for whom. Nothing is known by
//! its name: the same files with all words exchanged give the same draft. Each line says what speaks for it, and what nothing
//! speaks for is left in a comment.

mod code;
mod elements;
mod files;
mod lines;
mod links;
mod module;
mod names;
mod pattern;
mod roles;
mod shape;
mod study;
mod supplied;
mod write;

pub use files::Seen;
pub use supplied::{Supplied, supplied};

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
    let plan = crate::workspace::plan_of(root).unwrap_or_else(|_| Plan::new(&mut Settings::default()));
    let mut draft = Draft::default();
    let found = discover::discover(root, &Plan::of_everything()).manifests;
    let texts = files::texts(&found, &plan, &mut draft.seen);
    let mut draft = draft_texts(&texts, draft);
    draft.families.extend(code::families(&found, &plan));
    draft
}

/// The same for files in memory: pairs of path and text.
pub fn draft_of<'text>(files: impl IntoIterator<Item = (&'text str, &'text str)>) -> Draft {
    let plan = Plan::new(&mut Settings::default());
    let text = |(path, text): (&str, &str)| {
        (!plan.is_wanted(path)).then(|| files::Text::new(path.to_owned(), text.to_owned())).flatten()
    };
    let mut texts: Vec<files::Text> = files.into_iter().filter_map(text).collect();
    texts.sort_by(|one, other| one.path.cmp(&other.path));
    let seen = Seen { candidates: texts.len(), ..Seen::default() };
    draft_texts(&texts, Draft { seen, ..Draft::default() })
}

fn draft_texts(texts: &[files::Text], mut draft: Draft) -> Draft {
    let families = files::families(texts, &mut draft.seen);
    let names = names::Names::of(&families);
    let shapes: Vec<shape::Shape> = families.par_iter().map(|family| shape::shape(family, &names)).collect();
    let made = study::made(&families, &shapes, &names);
    let study = |apart: &HashSet<study::At>| study::Study::new(&families, &shapes, &made, apart, &names);
    // What says which of some names another is has no ids of its own, unless nobody offers those names.
    let mappings = study::mappings(&study(&HashSet::default()));
    let first = study(&mappings);
    let links = links::links(&first);
    let apart = roles::choices(&first, &links, &mappings);
    let (study, links) = if apart == mappings {
        (first, links)
    } else {
        let study = study(&apart);
        let links = links::links(&study);
        (study, links)
    };
    let roles = roles::roles(&study, &links, &apart);
    write::write(&study, &links, &roles, &mut draft);
    draft
}
