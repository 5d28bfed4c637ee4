//! One walk over a file: what it declares, and all that patterns match, with what stands around it.

use super::around::{self, Around, Declaration, Way};
use super::asked::{Asked, Role};
use super::grammar::{Grammar, Kinds, Parsed, Piece};
use super::pattern::{CodePattern, Held, Matched};
use ast_grep_core::matcher::MatcherExt;
use ast_grep_core::meta_var::MetaVariable;
use foldhash::HashMap;
use std::ops::Range;
use std::sync::OnceLock;

/// Pieces that one file may have matched in all; more are not looked at.
const LIMIT: usize = 200_000;
/// How many pieces may stand in one another.
const DEEPEST: usize = 4_000;

/// What a pattern matched, and what stands around it.
pub(super) struct Find<'r> {
    pub(super) matched: Matched<'r>,
    pub(super) around: Around<'r>,
}

impl Find<'_> {
    pub(super) fn at(&self) -> Range<usize> {
        self.matched.piece.range()
    }
}

/// What was found in a file.
#[derive(Default)]
pub(super) struct Survey<'r> {
    pub(super) declarations: Vec<Declaration>,
    /// By what the patterns are for what they matched, in the order in which it stands.
    pub(super) finds: HashMap<Role, Vec<Find<'r>>>,
    /// By function the places where it is called by its bare name.
    pub(super) calls: HashMap<String, Vec<Range<usize>>>,
    /// Whether there was more than is looked at.
    pub(super) is_cut: bool,
}

/// A pattern that may match pieces of a kind.
#[derive(Clone, Copy)]
struct Wanted<'a> {
    role: Role,
    pattern: &'a CodePattern,
    number: usize,
}

/// Goes over a file.
pub(super) fn survey<'r>(parsed: &'r Parsed, grammar: Grammar, asked: &Asked<'_>, text: &str) -> Survey<'r> {
    let (declaring, calling) = (around::declaring(grammar), calling(grammar));
    let asks_calls = asked.asks_calls();
    let mut by_kind: Vec<Vec<Wanted<'_>>> = vec![Vec::new(); declaring.len()];
    let mut of_any_kind = Vec::new();
    for (role, patterns) in asked.patterns() {
        for (number, pattern) in patterns.iter().enumerate().filter(|(_, pattern)| pattern.may_match(text)) {
            let wanted = Wanted { role, pattern, number };
            match pattern.kinds(grammar) {
                Some(kinds) => {
                    for kind in kinds {
                        by_kind.get_mut(kind as usize).into_iter().for_each(|of_kind| of_kind.push(wanted));
                    }
                }
                None => of_any_kind.push(wanted),
            }
        }
    }
    let mut survey = Survey::default();
    let mut found = 0;
    let mut way = Way::default();
    for piece in parsed.root().dfs() {
        let outer = way.step(&piece);
        if way.depth() > DEEPEST {
            survey.is_cut = true;
            return survey;
        }
        let kind = piece.kind_id() as usize;
        let is_declaring = declaring.get(kind).copied().unwrap_or(false);
        if let Some(declaration) = is_declaring.then(|| around::declared(&piece, outer)).flatten() {
            way.declare(survey.declarations.len());
            survey.declarations.push(declaration);
        }
        let is_call = asks_calls && calling.get(kind).copied().unwrap_or(false);
        if let Some((name, at)) = is_call.then(|| call(&piece)).flatten() {
            survey.calls.entry(name).or_default().push(at);
        }
        let wanted = by_kind.get(kind).into_iter().flatten().chain(&of_any_kind);
        for wanted in wanted {
            let Some(matched) = matched(&piece, *wanted, grammar) else { continue };
            found += 1;
            if found > LIMIT {
                survey.is_cut = true;
                return survey;
            }
            let around = way.around(outer);
            survey.finds.entry(wanted.role).or_default().push(Find { matched, around });
        }
    }
    for (role, finds) in &mut survey.finds {
        if !matches!(role, Role::Condition(_)) {
            keep_outermost(finds);
        }
    }
    survey
}

fn matched<'r>(piece: &Piece<'r>, wanted: Wanted<'_>, grammar: Grammar) -> Option<Matched<'r>> {
    let pattern = wanted.pattern.in_grammar(grammar)?;
    let found = pattern.match_node(piece.clone())?;
    let env = found.get_env();
    let held = |variable: MetaVariable| match variable {
        MetaVariable::Capture(name, _) => {
            let one = env.get_match(&name)?.clone();
            Some((name, Held::One(one)))
        }
        MetaVariable::MultiCapture(name) => {
            let all = env.get_multiple_matches(&name);
            let all = all.into_iter().filter(|piece| piece.is_named() && !piece.kind().contains("comment"));
            Some((name, Held::Several(all.collect())))
        }
        MetaVariable::Dropped(_) | MetaVariable::Multiple => None,
    };
    let mut holes: Vec<_> = env.get_matched_variables().filter_map(held).collect();
    holes.sort_by(|one, other| one.0.cmp(&other.0));
    Some(Matched { piece: piece.clone(), pattern: wanted.number, holes })
}

/// Leaves out what is a part of something else that was matched: the beginning of a chain of calls, most often. What stands in a hole
/// of the other is on its own.
fn keep_outermost(finds: &mut Vec<Find<'_>>) {
    // Outer pieces come first, and of those that match one piece the first pattern.
    finds.sort_by_key(|find| (find.at().start, std::cmp::Reverse(find.at().end), find.matched.pattern));
    let mut kept: Vec<Find<'_>> = Vec::new();
    // Those that hold the next, by number, the innermost last.
    let mut open: Vec<usize> = Vec::new();
    for find in std::mem::take(finds) {
        let at = find.at();
        let holds = |outer: &usize| kept[*outer].at().end >= at.end && kept[*outer].at().end > at.start;
        while open.last().is_some_and(|outer| !holds(outer)) {
            open.pop();
        }
        // What holds the innermost of them has it in a hole.
        let is_part = open.last().is_some_and(|&outer| {
            let mut holes = kept[outer].matched.holes.iter().flat_map(|(_, held)| held.pieces());
            !holes.any(|hole| hole.range().start <= at.start && at.end <= hole.range().end)
        });
        if !is_part {
            open.push(kept.len());
            kept.push(find);
        }
    }
    *finds = kept;
}

/// Kinds of pieces that are calls.
static CALLING: Kinds = [const { OnceLock::new() }; 7];

fn calling(grammar: Grammar) -> &'static [bool] {
    grammar.kinds(&CALLING, |kind| kind.contains("call") || kind.contains("invocation"))
}

/// A function that is called by its name alone, or on the object itself.
fn call(piece: &Piece<'_>) -> Option<(String, Range<usize>)> {
    let kind = piece.kind();
    let called = match &*kind {
        "method_invocation" | "member_call_expression" | "scoped_call_expression" => {
            let on = piece.field("object").or_else(|| piece.field("scope"));
            let is_own = on.is_none_or(|on| matches!(&*on.text(), "this" | "$this" | "self" | "static"));
            piece.field("name").filter(|_| is_own)?
        }
        "invocation_expression" | "call_expression" | "call" | "function_call_expression" => {
            let function = piece.field("function").or_else(|| piece.child(0))?;
            if function.is_leaf() {
                function
            } else {
                let first = function.child(0)?;
                matches!(&*first.text(), "this" | "self").then_some(())?;
                function.children().filter(Piece::is_named).last()?
            }
        }
        _ => return None,
    };
    Some((called.text().into_owned(), piece.range()))
}
