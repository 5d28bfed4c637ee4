//! JSONPath (RFC 9535) over a tree with places.
//!
//! Every path is parsed by a crate that implements the standard. Those of names, positions and `*` alone, which
//! are nearly all, are then walked on the tree itself; others are evaluated by the crate on a copy of the part
//! they are asked about, and what they select is found again in the tree.

use crate::syntax::{NodeId, NodeKind, Tree};
use corvant_core::source::Span;
use foldhash::{HashMap, HashMapExt};
use serde_json::Value;
use serde_json_path::{JsonPath, NormalizedPath, PathElement};
use std::sync::Arc;
use std::sync::atomic::{AtomicU8, Ordering};

/// A path that is well-formed.
#[derive(Debug, Clone)]
pub(crate) struct Path {
    /// The path as it is written.
    pub(crate) text: String,
    /// Where it stands in the workspace file.
    pub(crate) at: Span,
    steps: Steps,
    /// What is known of it, in whichever file.
    known: Arc<AtomicU8>,
}

/// Nothing was asked of a path, it selected nothing, or something.
const UNASKED: u8 = 0;
const IDLE: u8 = 1;
const BUSY: u8 = 2;

#[derive(Debug, Clone)]
enum Steps {
    Plain(Vec<PathStep>),
    Any(JsonPath),
}

#[derive(Debug, Clone, PartialEq, Eq)]
enum PathStep {
    Name(String),
    Position(usize),
    Every,
}

/// A node that a path selects, and how it stands in what holds it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Selected {
    pub(crate) node: NodeId,
    /// The key it stands under, if it stands in a map.
    pub(crate) key: Option<NodeId>,
    /// Which item of its list or map it is, from 1; 0 where the path selects what it starts from.
    pub(crate) number: usize,
}

impl Selected {
    /// A node on its own.
    pub(crate) fn root(node: NodeId) -> Self {
        Self { node, key: None, number: 0 }
    }
}

impl Path {
    /// Reads a path; the error says what is wrong and after how many bytes.
    pub(crate) fn new(text: &str) -> Result<Self, (String, usize)> {
        let path = JsonPath::parse(text).map_err(|error| (error.message().to_owned(), error.position()))?;
        let steps = plain_steps(text).map_or(Steps::Any(path), Steps::Plain);
        Ok(Self { text: text.to_owned(), at: Span::at(0), steps, known: Arc::new(AtomicU8::new(UNASKED)) })
    }

    /// Whether the path selects what stands in lists and maps, rather than something by its name.
    pub(crate) fn selects_items(&self) -> bool {
        match &self.steps {
            Steps::Plain(steps) => matches!(steps.last(), Some(PathStep::Every | PathStep::Position(_))),
            Steps::Any(_) => {
                let text = self.text.trim_end();
                text.ends_with('*') || text.ends_with(']') && !ends_with_name(text)
            }
        }
    }

    /// The names of fields in it.
    pub(crate) fn names(&self) -> Vec<&str> {
        let mut names = Vec::new();
        let mut rest = self.text.as_str();
        while let Some(at) = rest.find(['.', '\'', '"']) {
            let sign = rest[at..].chars().next().unwrap_or_default();
            let from = &rest[at + 1..];
            let end = match sign {
                '.' => from.find(|letter: char| !(letter.is_alphanumeric() || letter == '_')),
                quote => from.find(quote),
            };
            let name = &from[..end.unwrap_or(from.len())];
            names.extend((!name.is_empty()).then_some(name));
            rest = &from[name.len()..];
            rest = rest.strip_prefix(sign).filter(|_| sign != '.').unwrap_or(rest);
        }
        names
    }

    /// How often the path goes down all levels.
    pub(crate) fn descents(&self) -> usize {
        match &self.steps {
            Steps::Plain(_) => 0,
            Steps::Any(_) => self.text.matches("..").count(),
        }
    }

    /// How many values it looks at in a part of a tree at most, or about so many: each is come to from all above it,
    /// once for each descent; a descent in a filter begins anew at each.
    pub(crate) fn visits(&self, nodes: usize, depth: usize) -> u64 {
        let times = u32::try_from(self.descents().saturating_sub(1)).unwrap_or(u32::MAX);
        let each = if self.text.contains('?') { nodes } else { depth };
        (each as u64).saturating_pow(times).saturating_mul(nodes as u64)
    }

    /// What the path selects, starting from a node, in the order of the standard.
    pub(crate) fn select(&self, tree: &Tree<'_>, from: Selected) -> Vec<Selected> {
        let selected = match &self.steps {
            Steps::Plain(steps) => walk(tree, steps, from),
            Steps::Any(path) => evaluate(tree, path, from),
        };
        let seen = if selected.is_empty() { IDLE } else { BUSY };
        // All threads read it, and write it hardly ever.
        if self.known.load(Ordering::Relaxed) < seen {
            self.known.fetch_max(seen, Ordering::Relaxed);
        }
        selected
    }

    /// Notes that nobody knows what it would select.
    pub(crate) fn is_not_followed(&self) {
        self.known.store(BUSY, Ordering::Relaxed);
    }

    /// Whether it was asked and has selected nothing so far.
    pub(crate) fn is_idle(&self) -> bool {
        self.known.load(Ordering::Relaxed) == IDLE
    }
}

fn walk(tree: &Tree<'_>, steps: &[PathStep], from: Selected) -> Vec<Selected> {
    // Up to the first `*` there is one node at most, and most paths have none.
    let mut at = from;
    let mut left = steps.iter();
    for step in left.by_ref() {
        match one(tree, step, at.node) {
            Some(next) => at = next,
            None if *step == PathStep::Every => {
                return left.fold(every(tree, at.node), |selected, step| further(tree, step, &selected));
            }
            None => return Vec::new(),
        }
    }
    vec![at]
}

/// What a step selects from each of several nodes.
fn further(tree: &Tree<'_>, step: &PathStep, from: &[Selected]) -> Vec<Selected> {
    let nodes = from.iter().map(|selected| selected.node);
    match step {
        PathStep::Every => nodes.flat_map(|node| every(tree, node)).collect(),
        step => nodes.filter_map(|node| one(tree, step, node)).collect(),
    }
}

/// The one node that a step of a name or a position selects.
fn one(tree: &Tree<'_>, step: &PathStep, from: NodeId) -> Option<Selected> {
    match (step, tree.kind(from)) {
        (PathStep::Name(name), NodeKind::Map) => {
            let named = tree.fields(from).enumerate().find(|(_, (key, _))| tree.text(*key) == name);
            named.map(|(at, (key, node))| Selected { node, key: Some(key), number: at + 1 })
        }
        (PathStep::Position(at), NodeKind::List) => {
            tree.children(from).nth(*at).map(|node| Selected { node, key: None, number: at + 1 })
        }
        _ => None,
    }
}

/// All that stands in a list or map.
pub(crate) fn every(tree: &Tree<'_>, node: NodeId) -> Vec<Selected> {
    let numbered = |(at, (key, node))| Selected { node, key, number: at + 1 };
    match tree.kind(node) {
        NodeKind::List => tree.children(node).map(|item| (None, item)).enumerate().map(numbered).collect(),
        NodeKind::Map => {
            tree.fields(node).map(|(key, item)| (Some(key), item)).enumerate().map(numbered).collect()
        }
        _ => Vec::new(),
    }
}

/// The steps of a well-formed path, if there are none but names, positions from the start, and `*`.
fn plain_steps(text: &str) -> Option<Vec<PathStep>> {
    let mut rest = text.strip_prefix('$')?;
    let mut steps = Vec::new();
    loop {
        rest = rest.trim_start();
        if rest.is_empty() {
            return Some(steps);
        }
        let (step, after) = match rest.strip_prefix('[') {
            Some(inner) => bracketed(inner.trim_start())?,
            None => dotted(rest.strip_prefix('.')?)?,
        };
        steps.push(step);
        rest = after;
    }
}

/// Whether a path ends with a name in brackets; what a filter compares with is none.
fn ends_with_name(path: &str) -> bool {
    let before = |quote: char| {
        let name = path.strip_suffix(']')?.trim_end().strip_suffix(quote)?;
        Some(name[..name.rfind(quote)?].trim_end().ends_with(['[', ',']))
    };
    before('\'').or_else(|| before('"')).unwrap_or_default()
}

fn dotted(rest: &str) -> Option<(PathStep, &str)> {
    if let Some(after) = rest.strip_prefix('*') {
        return Some((PathStep::Every, after));
    }
    let is_name = |letter: char| letter.is_ascii_alphanumeric() || letter == '_' || !letter.is_ascii();
    let end = rest.find(|letter| !is_name(letter)).unwrap_or(rest.len());
    (end > 0).then(|| (PathStep::Name(rest[..end].to_owned()), &rest[end..]))
}

fn bracketed(rest: &str) -> Option<(PathStep, &str)> {
    let (step, after) = if let Some(after) = rest.strip_prefix('*') {
        (PathStep::Every, after)
    } else if let Some(inner) = rest.strip_prefix(['\'', '"']) {
        let end = inner.find(['\'', '"', '\\'])?;
        // Another quote, or an escape: left to the crate.
        if !inner[end..].starts_with(rest.chars().next()?) {
            return None;
        }
        (PathStep::Name(inner[..end].to_owned()), &inner[end + 1..])
    } else {
        let end = rest.find(|letter: char| !letter.is_ascii_digit()).unwrap_or(rest.len());
        (PathStep::Position(rest[..end].parse().ok()?), &rest[end..])
    };
    Some((step, after.trim_start().strip_prefix(']')?))
}

/// Evaluates a path on a copy of the value, and finds what it selects in the tree again by its location.
fn evaluate(tree: &Tree<'_>, path: &JsonPath, from: Selected) -> Vec<Selected> {
    let value = copy(tree, from.node);
    let mut places = Places { tree, children: HashMap::new() };
    let found = path.query_located(&value);
    found.iter().filter_map(|found| places.at(from, found.location())).collect()
}

/// Places in a tree by their locations; what is in each list and map is looked through once.
struct Places<'tree> {
    tree: &'tree Tree<'tree>,
    children: HashMap<NodeId, Children<'tree>>,
}

/// What is in one list or map.
struct Children<'tree> {
    all: Vec<Selected>,
    /// By key the first of that name.
    by_name: HashMap<&'tree str, usize>,
}

impl Places<'_> {
    fn at(&mut self, from: Selected, location: &NormalizedPath<'_>) -> Option<Selected> {
        location.iter().try_fold(from, |at, step| {
            let children = self.children.entry(at.node).or_insert_with(|| Children::new(self.tree, at.node));
            match step {
                PathElement::Name(name) => children.by_name.get(name).map(|&at| children.all[at]),
                PathElement::Index(number) => children.all.get(*number).copied(),
            }
        })
    }
}

impl<'tree> Children<'tree> {
    fn new(tree: &'tree Tree<'tree>, node: NodeId) -> Self {
        let all = every(tree, node);
        let mut by_name = HashMap::new();
        for (number, key) in all.iter().enumerate().filter_map(|(number, at)| Some((number, at.key?))) {
            by_name.entry(tree.text(key)).or_insert(number);
        }
        Self { all, by_name }
    }
}

/// A part of a tree as the crate takes it. Syntaxes limit how deep trees are.
fn copy(tree: &Tree<'_>, node: NodeId) -> Value {
    let text = tree.text(node);
    match tree.kind(node) {
        NodeKind::Null => Value::Null,
        NodeKind::Boolean => text.eq_ignore_ascii_case("true").into(),
        NodeKind::Integer | NodeKind::Number => {
            let whole = text.parse::<i64>().ok().map(Value::from);
            whole.or_else(|| text.parse::<f64>().ok().map(Value::from)).unwrap_or_else(|| text.into())
        }
        NodeKind::Text => text.into(),
        NodeKind::List => tree.children(node).map(|item| copy(tree, item)).collect(),
        NodeKind::Map => {
            let mut map = serde_json::Map::new();
            for (key, value) in tree.fields(node) {
                if !map.contains_key(tree.text(key)) {
                    map.insert(tree.text(key).to_owned(), copy(tree, value));
                }
            }
            Value::Object(map)
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::syntax::yaml;
    use proptest::prelude::*;
    use rstest::rstest;

    const TEXT: &str = "a: { b: [1, { c: x }, [y]], 'k k': z, e: { c: w } }\nlist: [p, q]\nflag: true\n";

    fn texts(path: &Path) -> Vec<String> {
        let tree = yaml::parse(TEXT).unwrap();
        let root = Selected::root(tree.root().unwrap());
        path.select(&tree, root).iter().map(|found| tree.source_of(found.node).to_owned()).collect()
    }

    #[rstest]
    #[case::every("$..list[*]", true)]
    #[case::a_position("$..list[-1]", true)]
    #[case::a_filter("$.list[?@[0] == 'p']", true)]
    #[case::a_filter_in_other_quotes("$.list[?@ != \"p\" ]", true)]
    #[case::a_name("$..['list']", false)]
    #[case::names("$['list', 'flag']", false)]
    #[case::a_key("$..list", false)]
    fn paths_of_items_are_told_from_those_of_names(#[case] path: &str, #[case] of_items: bool) {
        assert_eq!(Path::new(path).unwrap().selects_items(), of_items);
    }

    #[rstest]
    #[case("$.list[*]", true, &["p", "q"])]
    #[case("$.a['k k']", true, &["z"])]
    #[case("$.a.b[1].c", true, &["x"])]
    #[case("$ .a [ 'e' ] .c", true, &["w"])]
    #[case("$.a.*.c", true, &["w"])]
    #[case("$.nowhere.*", true, &[])]
    #[case("$..c", false, &["x", "w"])]
    #[case("$.list[-1]", false, &["q"])]
    #[case("$.a[?@.c == 'w'].c", false, &["w"])]
    #[case("$.list[0:1]", false, &["p"])]
    #[case("$['list', 'flag']", false, &["[p, q]", "true"])]
    fn paths_select_with_their_places(#[case] text: &str, #[case] is_plain: bool, #[case] expected: &[&str]) {
        let path = Path::new(text).unwrap();
        assert_eq!(matches!(path.steps, Steps::Plain(_)), is_plain);
        assert_eq!(texts(&path), expected);
    }

    #[rstest]
    #[case("list")]
    #[case("$.list[")]
    #[case("$.a b")]
    #[case("$.@name")]
    fn what_is_no_path_is_refused(#[case] text: &str) {
        assert!(Path::new(text).is_err());
    }

    proptest! {
        #[test]
        fn plain_paths_select_as_the_crate_does(
            steps in prop::collection::vec(
                prop::sample::select(vec![
                    ".a", ".b", ".c", ".e", ".*", "[*]", "[0]", "[1]", "[2]", "['k k']", "[\"list\"]", "[ 'a' ]",
                ]),
                0..5,
            )
        ) {
            let text = format!("${}", steps.concat());
            let plain = Path::new(&text).unwrap();
            prop_assert!(matches!(plain.steps, Steps::Plain(_)));
            let any = Path { steps: Steps::Any(JsonPath::parse(&text).unwrap()), ..plain.clone() };
            let tree = yaml::parse(TEXT).unwrap();
            let root = Selected::root(tree.root().unwrap());
            prop_assert_eq!(plain.select(&tree, root), any.select(&tree, root));
        }
    }
}
