//! One file while a custom reader reads it.

use super::Around;
use super::field::FoundText;
use super::folder::FolderFiles;
use super::path::{Path, Selected};
use crate::code::{FullNames, Order};
use crate::standards::Files;
use crate::syntax::{NodeId, NodeKind, Tree};
use crate::types::CodeFile;
use corvant_core::facts::{Facts, Named};
use corvant_core::name::{Interner, Name};
use corvant_core::source::Span;
use foldhash::{HashMap, HashSet};
use std::borrow::Cow;
use std::ops::Range;
use std::rc::Rc;

/// What is read from, what is read so far, and what of it was looked at.
pub(crate) struct Session<'tree> {
    pub(crate) tree: &'tree Tree<'tree>,
    pub(crate) interner: &'tree Interner,
    pub(crate) path: &'tree str,
    /// The files around it.
    files: &'tree dyn Files,
    /// The outermost value, of the document that is read.
    pub(crate) root: Selected,
    /// The lifetimes that the workspace knows.
    pub(crate) lifetimes: &'tree [String],
    /// The module that the file belongs to, once it is known.
    pub(crate) module_text: String,
    /// Whether the syntax knows kinds of values other than text.
    pub(crate) has_kinds: bool,
    /// Whether the file is code: what is needed follows from types.
    pub(crate) is_code: bool,
    /// What the file is as code, beside its tree.
    pub(crate) code: Option<CodeSide<'tree>>,
    /// Where something stands whose name is known only once the code runs.
    pub(crate) computed: Vec<Span>,
    /// What providers register, as takes of services say.
    pub(crate) registered: Vec<Registered>,
    /// Where in code the targets of needs stand that were taken so far.
    pub(crate) needed_at: HashSet<u32>,
    /// How many needs were taken where one was before.
    pub(crate) needed_again: usize,
    /// What belongs to the module that is read for.
    pub(crate) facts: Facts,
    /// The file's own module, once it is known.
    pub(crate) module: Option<Named>,
    /// By another module that items name, what belongs to that.
    others: Vec<(Named, Facts)>,
    /// By name of such a module its number.
    other_numbers: HashMap<Name, usize>,
    /// The id of what is taken.
    pub(crate) holder: Option<Name>,
    /// Definitions without a name of their own inside others, yet to be taken: each with what it is called there, and
    /// the need that is met by it, by number.
    pub(crate) nested: Vec<Nested>,
    /// By node of such a definition what it is called.
    pub(crate) nested_ids: HashMap<NodeId, Named>,
    /// What files say for their folders.
    folders: &'tree FolderFiles,
    /// By node: whether a field of the reader looked at it.
    pub(crate) taken: Vec<bool>,
    /// By node: whether it is an item of a take.
    pub(crate) items: Vec<bool>,
    /// By node: what holds it; made when it is first asked for.
    holders: Option<Vec<Selected>>,
    /// Whether values in which no reference was found are noted.
    pub(crate) is_unmatched_asked: bool,
    /// Values in which no reference was found, and whether they look like one.
    pub(crate) unmatched: Vec<(NodeId, bool)>,
    /// What does not have the shape that the reader expects, with a sentence on it.
    pub(crate) misshapen: Vec<(NodeId, String)>,
    /// What paths select from what stands above items: by where the path and the node stand.
    above: HashMap<(usize, NodeId), Rc<[Selected]>>,
    /// How deep the tree is; worked out when it is first asked for.
    depth: Option<usize>,
}

/// Longer texts, in bytes, are no references: no expression is looked for in them.
pub(crate) const TEXT_LIMIT: usize = 64 << 10;
/// Values that a path may come to look at in one file, however often it does.
const VISIT_LIMIT: u64 = 2_000_000;

impl<'tree> Session<'tree> {
    pub(crate) fn new(tree: &'tree Tree<'tree>, around: Around<'tree>, path: &'tree str) -> Self {
        let Around { interner, files, folders, .. } = around;
        let marks = || vec![false; tree.len()];
        Self {
            tree,
            interner,
            path,
            files,
            root: Selected::root(tree.root().unwrap_or(NodeId::new(0))),
            lifetimes: &[],
            module_text: String::new(),
            has_kinds: true,
            is_code: false,
            code: None,
            computed: Vec::new(),
            registered: Vec::new(),
            needed_at: HashSet::default(),
            needed_again: 0,
            facts: Facts::default(),
            module: None,
            others: Vec::new(),
            other_numbers: HashMap::default(),
            holder: None,
            nested: Vec::new(),
            nested_ids: HashMap::default(),
            folders,
            taken: marks(),
            items: marks(),
            holders: None,
            is_unmatched_asked: false,
            unmatched: Vec::new(),
            misshapen: Vec::new(),
            above: HashMap::default(),
            depth: None,
        }
    }

    /// Does something for what belongs to a module.
    pub(crate) fn for_module(&mut self, module: Option<Named>, act: impl FnOnce(&mut Self)) {
        let own = self.module.map(|module| module.name);
        let Some(module) = module.filter(|module| Some(module.name) != own) else { return act(self) };
        let others = &mut self.others;
        let at = *self.other_numbers.entry(module.name).or_insert_with(|| {
            others.push((module, Facts::default()));
            others.len() - 1
        });
        let text = std::mem::replace(&mut self.module_text, self.interner.text(module.name));
        std::mem::swap(&mut self.facts, &mut self.others[at].1);
        act(self);
        std::mem::swap(&mut self.facts, &mut self.others[at].1);
        self.module_text = text;
    }

    /// The id of what is taken; nothing, if it has none.
    pub(crate) fn holder_text(&self) -> String {
        self.holder.map_or_else(String::new, |holder| self.interner.text(holder))
    }

    /// What belongs to other modules than the file.
    pub(crate) fn parts_of_modules(&mut self) -> Vec<(Named, Facts)> {
        std::mem::take(&mut self.others)
    }

    /// What a path selects in the nearest file of a name, in the folder of this file or above.
    pub(crate) fn selected_in_folder(&mut self, name: &str, path: &Path) -> Option<String> {
        let folder = self.path.rsplit_once('/').map_or("", |(folder, _)| folder);
        let mut folders = std::iter::successors(Some(folder), |folder| {
            (!folder.is_empty()).then(|| folder.rsplit_once('/').map_or("", |(above, _)| above))
        });
        folders.find_map(|folder| {
            let at = if folder.is_empty() { name.to_owned() } else { format!("{folder}/{name}") };
            // A file cannot say what counts where it says nothing.
            (at != self.path).then(|| self.folders.said(self.files, &at, path)).flatten()
        })
    }

    /// What a path selects. One that would look at far more values than there are is not followed, which is noted.
    pub(crate) fn select(&mut self, path: &Path, from: Selected) -> Vec<Selected> {
        if path.descents() > 1 {
            let tree = self.tree;
            let depth = *self.depth.get_or_insert_with(|| depth(tree));
            if path.visits(tree.size(from.node), depth) > VISIT_LIMIT {
                let message = format!(
                    "the path {} would look at more than {VISIT_LIMIT} values here: it is not followed",
                    path.text
                );
                self.misshapen.push((from.node, message));
                path.is_not_followed();
                return Vec::new();
            }
        }
        path.select(self.tree, from)
    }

    /// What a path selects from something that stands above several items.
    pub(crate) fn selected_above(&mut self, path: &Path, from: Selected) -> Vec<Selected> {
        let key = (std::ptr::from_ref(path) as usize, from.node);
        if let Some(known) = self.above.get(&key) {
            return known.to_vec();
        }
        let selected = self.select(path, from);
        self.above.insert(key, selected.as_slice().into());
        selected
    }

    /// Notes that a text is too long for an expression to be looked for in it.
    pub(crate) fn too_long(&mut self, found: &FoundText<'_>) {
        let Some(node) = found.node else { return };
        let message =
            format!("this is longer than {} KiB: no expression is looked for in it", TEXT_LIMIT >> 10);
        self.misshapen.push((node, message));
    }

    /// Notes that a node was looked at.
    pub(crate) fn take(&mut self, node: NodeId) {
        self.taken[node.index()] = true;
    }

    /// The text of a plain value, which is looked at.
    pub(crate) fn plain(&mut self, node: NodeId) -> FoundText<'tree> {
        self.take(node);
        let text = Cow::Borrowed(self.tree.text(node));
        FoundText { text, span: self.tree.span(node), node: Some(node), is_made: false }
    }

    /// A text that stands nowhere in the file; its place is the item's.
    pub(crate) fn nowhere(&self, item: Selected, text: String) -> FoundText<'tree> {
        let span = match item.key {
            Some(key) => self.tree.span(key),
            None => Span::at(self.tree.span(item.node).start as usize),
        };
        FoundText { text: Cow::Owned(text), span, node: None, is_made: false }
    }

    /// The place of a part of a text.
    pub(crate) fn part(&self, found: &FoundText<'_>, range: Range<usize>) -> Span {
        match found.node {
            Some(node) => {
                let part = self.tree.part(node, range.clone());
                let whole = self.tree.span(node);
                if part != whole || range.len() == found.text.len() {
                    return part;
                }
                self.part_of_lines(&found.text, range, whole)
            }
            // What was cut out of a text without escapes stands there letter for letter.
            None if !found.is_made && (found.span.end - found.span.start) as usize == found.text.len() => {
                let start = found.span.start as usize;
                Span::new(start + range.start, start + range.end)
            }
            None => found.span,
        }
    }

    /// The place of a part of a text that does not stand there as it is, since it goes on over several lines or has escapes:
    /// where those letters stand for as many times as in the text before. The whole place, if they stand there nowhere.
    fn part_of_lines(&self, text: &str, range: Range<usize>, whole: Span) -> Span {
        let part = &text[range.clone()];
        let before = text[..range.start].matches(part).count();
        let found = self.tree.written(whole).match_indices(part).nth(before);
        found.map_or(whole, |(at, _)| {
            let start = whole.start as usize + at;
            Span::new(start, start + part.len())
        })
    }

    /// Notes that a list or map stands where a field expects a text.
    pub(crate) fn misshapen(&mut self, node: NodeId, field: &str) {
        self.take(node);
        let message =
            format!("the reader takes text from {field}, and here is {}", self.tree.kind(node).words());
        self.misshapen.push((node, message));
    }

    /// What holds something; `None`: it is the outermost.
    pub(crate) fn holder(&mut self, item: Selected) -> Option<Selected> {
        let tree = self.tree;
        let holder = self.holders.get_or_insert_with(|| holders(tree))[item.node.index()];
        (holder.node != item.node).then_some(holder)
    }

    /// The map so many maps above an item. One that stands in a list has the list's key.
    pub(crate) fn above(&mut self, item: Selected, maps: u32) -> Option<Selected> {
        let tree = self.tree;
        let holders = self.holders.get_or_insert_with(|| holders(tree));
        let mut at = item;
        let mut left = maps;
        while left > 0 {
            let holder = holders[at.node.index()];
            if holder.node == at.node {
                return None;
            }
            at = holder;
            left -= u32::from(tree.kind(at.node) == NodeKind::Map);
        }
        if at.key.is_none() {
            let list = holders[at.node.index()];
            at.key = list.key.filter(|_| tree.kind(list.node) == NodeKind::List);
        }
        Some(at)
    }

    /// The items that a path selects.
    pub(crate) fn items(&mut self, each: &Path, from: Selected) -> Vec<Selected> {
        let items = self.select(each, from);
        for item in &items {
            self.items[item.node.index()] = true;
        }
        items
    }

    /// The same for what belongs to an item: of a list, what stands in it, unless the path says so itself.
    pub(crate) fn parts(&mut self, each: &Path, from: Selected) -> Vec<Selected> {
        // A list in a list is one thing, as a call with its arguments is.
        let is_in_list =
            |selected: &Selected| selected.key.is_none() && selected.number > 0 && each.selects_items();
        let mut items = Vec::new();
        for selected in self.select(each, from) {
            if self.tree.kind(selected.node) == NodeKind::List && !is_in_list(&selected) {
                self.take(selected.node);
                items.extend(super::path::every(self.tree, selected.node));
            } else {
                // What a path names is the only one, wherever it stands.
                let number = if selected == from || each.selects_items() { selected.number } else { 1 };
                items.push(Selected { number, ..selected });
            }
        }
        for item in &items {
            self.items[item.node.index()] = true;
        }
        items
    }

    /// The name of the file without its folder and ending.
    pub(crate) fn file_stem(&self) -> &'tree str {
        let name = self.path.rsplit('/').next().unwrap_or(self.path);
        name.split_once('.').map_or(name, |(stem, _)| stem)
    }
}

/// What a file of code is beside its tree.
pub(crate) struct CodeSide<'tree> {
    pub(crate) file: &'tree CodeFile,
    pub(crate) names: FullNames<'tree>,
    /// Where values stand that are known only once the code runs.
    pub(crate) computed: HashSet<Span>,
    pub(crate) order: Order,
    /// What the reader says is not seen.
    pub(crate) blind: Vec<Span>,
    /// Where functions stand.
    pub(crate) functions: Vec<Span>,
    pub(crate) doubt: Option<String>,
}

/// Something that a provider registers.
#[derive(Clone, Copy)]
pub(crate) struct Registered {
    pub(crate) provider: Name,
    pub(crate) id: Named,
    pub(crate) order: (u32, u32),
}

impl Session<'_> {
    /// When what stands at a place of code happens: by the place, where it is called from first.
    pub(crate) fn order(&self, at: u32) -> (u32, u32) {
        self.code.as_ref().map_or((at, 0), |code| code.order.at(at))
    }

    /// Whether a value is known only once the code runs.
    pub(crate) fn is_computed(&self, node: NodeId) -> bool {
        self.code.as_ref().is_some_and(|code| code.computed.contains(&self.tree.span(node)))
    }

    /// The full name of a type that is named in code.
    pub(crate) fn full(&self, text: &str, at: Span) -> Option<String> {
        let code = self.code.as_ref()?;
        // A text names a type in full.
        let is_text = self.tree.written(Span { start: 0, end: at.start }).ends_with(['"', '\'', '`']);
        (!is_text).then(|| code.names.full(text, at.start as usize))
    }
}

/// A definition without a name of its own, inside another.
pub(crate) struct Nested {
    pub(crate) at: Selected,
    /// What it is called after its holder and its slot.
    pub(crate) id: Named,
    /// The number of the need that it meets.
    pub(crate) need: usize,
    /// Whether it is an item of a take of its own.
    pub(crate) is_item: bool,
}

/// How many lists and maps stand in one another at most.
fn depth(tree: &Tree<'_>) -> usize {
    let mut deepest = 0;
    let mut waiting: Vec<(NodeId, usize)> = tree.root().map(|root| (root, 1)).into_iter().collect();
    while let Some((node, depth)) = waiting.pop() {
        deepest = deepest.max(depth);
        waiting.extend(tree.children(node).map(|inner| (inner, depth + 1)));
    }
    deepest
}

/// For each node the list or map that holds it, as that stands in what holds it; the outermost holds itself.
fn holders(tree: &Tree<'_>) -> Vec<Selected> {
    let Some(root) = tree.root().map(Selected::root) else { return Vec::new() };
    let mut holders = vec![root; tree.len()];
    let mut waiting = vec![root];
    while let Some(holder) = waiting.pop() {
        for held in super::path::every(tree, holder.node) {
            holders[held.node.index()] = holder;
            waiting.push(held);
        }
    }
    holders
}
