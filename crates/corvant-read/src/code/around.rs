//! What stands around a piece of code: types, functions, conditions and loops.

use super::grammar::{Grammar, Kinds, Piece};
use std::ops::Range;
use std::sync::OnceLock;

/// Something that code declares under a name, and where all of it stands.
#[derive(Clone, Debug)]
pub(super) struct Declaration {
    pub(super) is_type: bool,
    pub(super) name: String,
    pub(super) name_at: Range<usize>,
    pub(super) at: Range<usize>,
    /// The number of the declaration around it.
    pub(super) outer: Option<usize>,
}

/// A condition under which a piece runs.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Condition {
    /// As it is written, spaces made one; empty: nobody can say it in one line.
    pub(super) text: String,
    /// Whether it must not hold.
    pub(super) is_not: bool,
}

/// What stands around a piece.
#[derive(Clone, Default)]
pub(super) struct Around<'r> {
    /// The number of the innermost declaration that it stands in.
    pub(super) declaration: Option<usize>,
    /// From the inside out, up to the function that it stands in.
    pub(super) conditions: Vec<Condition>,
    /// Whether it stands in a loop of its function.
    pub(super) is_repeated: bool,
    /// What is called on it, and on that: names and arguments.
    pub(super) chain: Vec<(String, Vec<Piece<'r>>)>,
}

/// How many calls on something are looked at.
const CHAINED: usize = 64;

const TYPES: &[&str] = &[
    "class_declaration",
    "abstract_class_declaration",
    "interface_declaration",
    "enum_declaration",
    "record_declaration",
    "struct_declaration",
    "trait_declaration",
    "object_declaration",
    "class_definition",
];
const FUNCTIONS: &[&str] = &[
    "method_declaration",
    "constructor_declaration",
    "function_declaration",
    "function_definition",
    "local_function_statement",
    "method_definition",
    "secondary_constructor",
    "generator_function_declaration",
];
const LOOPS: &[&str] = &[
    "for_statement",
    "enhanced_for_statement",
    "foreach_statement",
    "for_in_statement",
    "while_statement",
    "do_statement",
    "do_while_statement",
    "list_comprehension",
    "set_comprehension",
    "dictionary_comprehension",
    "generator_expression",
];
/// What has a condition of its own, one branch or two.
const FORKS: &[&str] = &[
    "if_statement",
    "if_expression",
    "elif_clause",
    "else_if_clause",
    "ternary_expression",
    "conditional_expression",
    "preproc_if",
    "preproc_elif",
];
/// One of several branches, of which nobody says in a line when it is taken.
const BRANCHES: &[&str] = &[
    "switch_block_statement_group",
    "switch_rule",
    "switch_section",
    "switch_expression_arm",
    "switch_case",
    "switch_default",
    "case_statement",
    "default_statement",
    "match_conditional_expression",
    "match_default_expression",
    "case_clause",
    "when_entry",
    "catch_clause",
    "catch_block",
    "except_clause",
];
/// Words for the other branch, around it.
const OTHERWISE: &[&str] = &["else_clause", "else", "preproc_else"];

/// Kinds of pieces that may declare something.
static DECLARING: Kinds = [const { OnceLock::new() }; 7];

/// By number of a kind whether such pieces may declare something.
pub(super) fn declaring(grammar: Grammar) -> &'static [bool] {
    grammar.kinds(&DECLARING, |kind| {
        TYPES.contains(&kind) || FUNCTIONS.contains(&kind) || kind == "variable_declarator"
    })
}

/// What a piece declares.
pub(super) fn declared(piece: &Piece<'_>, outer: Option<usize>) -> Option<Declaration> {
    let kind = piece.kind();
    let is_type = TYPES.contains(&&*kind);
    let holder = if kind == "variable_declarator" {
        let value = piece.field("value")?;
        ["arrow_function", "function_expression"].contains(&&*value.kind()).then_some(())?;
        piece.field("name")?
    } else {
        (is_type || FUNCTIONS.contains(&&*kind)).then_some(())?;
        let named = piece.field("name").or_else(|| {
            piece.children().find(|child| {
                matches!(&*child.kind(), "identifier" | "simple_identifier" | "type_identifier")
            })
        });
        let Some(named) = named else {
            let at = piece.range().start..piece.range().start;
            let name = "constructor".to_owned();
            return Some(Declaration { is_type, name, name_at: at, at: piece.range(), outer });
        };
        named
    };
    let name = holder.text().trim_matches('`').to_owned();
    Some(Declaration { is_type, name, name_at: holder.range(), at: piece.range(), outer })
}

/// Pieces each of which holds the next, and what is known of them.
#[derive(Default)]
pub(super) struct Way<'r> {
    pieces: Vec<Piece<'r>>,
    /// By piece the declaration that it is, or stands in.
    declared: Vec<Option<usize>>,
    /// By piece under what it runs, as far as that was asked.
    runs: Vec<Option<Runs>>,
    /// Conditions, each with the one around it.
    conditions: Vec<(Condition, Option<usize>)>,
}

/// Under what a piece runs.
#[derive(Clone, Copy, Default)]
struct Runs {
    /// The number of the innermost condition.
    condition: Option<usize>,
    is_repeated: bool,
}

impl<'r> Way<'r> {
    /// How many pieces hold one another.
    pub(super) fn depth(&self) -> usize {
        self.pieces.len()
    }

    /// Goes on to a piece; gives the declaration around it.
    pub(super) fn step(&mut self, piece: &Piece<'r>) -> Option<usize> {
        let at = piece.range();
        let holds = |outer: &Piece<'r>| {
            outer.range().end >= at.end && (outer.range().end > at.start || at.is_empty())
        };
        while self.pieces.last().is_some_and(|outer| !holds(outer)) {
            self.pieces.pop();
            self.declared.pop();
            self.runs.pop();
        }
        let outer = self.declared.last().copied().flatten();
        self.pieces.push(piece.clone());
        self.declared.push(outer);
        self.runs.push(None);
        outer
    }

    /// Says that the last piece is a declaration.
    pub(super) fn declare(&mut self, number: usize) {
        if let Some(last) = self.declared.last_mut() {
            *last = Some(number);
        }
    }

    /// What stands around the last piece; `declaration` is the one around it.
    pub(super) fn around(&mut self, declaration: Option<usize>) -> Around<'r> {
        let runs = self.runs();
        let mut conditions = Vec::new();
        let mut at = runs.condition;
        while let Some(number) = at {
            let (condition, outer) = &self.conditions[number];
            conditions.push(condition.clone());
            at = *outer;
        }
        Around { declaration, conditions, is_repeated: runs.is_repeated, chain: chain(&self.pieces) }
    }

    /// Under what the last piece runs: what is known of those that hold it is not worked out again.
    fn runs(&mut self) -> Runs {
        let known = self.runs.iter().rposition(Option::is_some);
        let first = known.map_or(0, |known| known + 1);
        for at in first..self.pieces.len() {
            let runs = match at.checked_sub(1) {
                None => Runs::default(),
                Some(outer) => self.runs_in(outer, at),
            };
            self.runs[at] = Some(runs);
        }
        self.runs.last().copied().flatten().unwrap_or_default()
    }

    fn runs_in(&mut self, outer: usize, at: usize) -> Runs {
        let mut runs = self.runs[outer].unwrap_or_default();
        let (piece, inner) = (&self.pieces[outer], &self.pieces[at]);
        let kind = piece.kind();
        let kind = &*kind;
        let condition = if TYPES.contains(&kind) || FUNCTIONS.contains(&kind) {
            return Runs::default();
        } else if LOOPS.contains(&kind) {
            runs.is_repeated |= !is_looped_over(piece, inner);
            None
        } else if FORKS.contains(&kind) {
            condition(piece, inner)
        } else if BRANCHES.contains(&kind) && !is_first(piece, inner) {
            Some(Condition { text: String::new(), is_not: false })
        } else {
            None
        };
        if let Some(condition) = condition {
            self.conditions.push((condition, runs.condition));
            runs.condition = Some(self.conditions.len() - 1);
        }
        runs
    }
}

fn is_first(piece: &Piece<'_>, inner: &Piece<'_>) -> bool {
    piece.child(0).is_some_and(|first| first.range() == inner.range())
}

/// Whether something is what a loop goes over, and so looked at once.
fn is_looped_over(of: &Piece<'_>, inner: &Piece<'_>) -> bool {
    let body = of.field("body").or_else(|| of.children().last());
    // The condition of a loop is looked at each time.
    let is_before = body.is_some_and(|body| inner.range().end <= body.range().start);
    let is_each = matches!(&*of.kind(), "enhanced_for_statement" | "foreach_statement" | "for_in_statement")
        || of.children().any(|child| matches!(&*child.text(), "in" | "as"));
    let is_comprehension = of.kind().ends_with("comprehension") || of.kind() == "generator_expression";
    is_before && is_each || is_comprehension && !is_first_named(of, inner)
}

fn is_first_named(of: &Piece<'_>, inner: &Piece<'_>) -> bool {
    of.children().find(Piece::is_named).is_some_and(|first| first.range() == inner.range())
}

/// The condition of a fork for what stands in it; `None`: it stands in the condition itself.
fn condition(fork: &Piece<'_>, inner: &Piece<'_>) -> Option<Condition> {
    let kind = fork.kind();
    // `a if c else b` has its condition between the branches.
    let is_python = kind == "conditional_expression" && fork.field("condition").is_none();
    let condition = if is_python {
        fork.children().filter(Piece::is_named).nth(1)
    } else {
        let named = fork.field("condition");
        named.or_else(|| fork.children().find(Piece::is_named))
    };
    let condition = condition?;
    if condition.range() == inner.range() {
        return None;
    }
    let is_alternative = fork.field_children("alternative").any(|other| other.range() == inner.range())
        || OTHERWISE.contains(&&*inner.kind())
        || is_python && inner.range().start > condition.range().end
        || fork.kind() == "if_expression" && is_behind_else(fork, inner);
    // Of a chain of conditions each stands in the other branch of that before.
    let (text, is_negated) = plain(&condition.text());
    Some(Condition { text, is_not: is_alternative != is_negated })
}

/// Whether something stands behind the word `else` of what holds it.
fn is_behind_else(fork: &Piece<'_>, inner: &Piece<'_>) -> bool {
    let mut before = fork.children().take_while(|child| child.range().start < inner.range().start);
    before.any(|child| child.text() == "else")
}

/// A condition without brackets around it and spaces in it, and whether it was one that must not hold.
pub(crate) fn plain(text: &str) -> (String, bool) {
    let mut text = text.split_whitespace().collect::<Vec<_>>().join(" ");
    let mut is_not = false;
    loop {
        let inner = if text.starts_with('(') && closes_at_end(&text) {
            text[1..text.len() - 1].trim().to_owned()
        } else if let Some(rest) =
            text.strip_prefix('!').filter(|rest| !rest.starts_with('=') && is_one(rest))
        {
            is_not = !is_not;
            rest.trim().to_owned()
        } else if let Some(rest) = text.strip_prefix("not ").filter(|rest| is_one(rest)) {
            is_not = !is_not;
            rest.trim().to_owned()
        } else {
            return (text, is_not);
        };
        text = inner;
    }
}

/// Whether the bracket that a text begins with ends with it.
fn closes_at_end(text: &str) -> bool {
    let mut depth = 0_usize;
    for (at, letter) in text.char_indices() {
        match letter {
            '(' => depth += 1,
            ')' => depth = depth.saturating_sub(1),
            _ => {}
        }
        if depth == 0 {
            return at + 1 == text.len();
        }
    }
    false
}

/// Whether a condition is not one of several that are joined.
fn is_one(text: &str) -> bool {
    !["&&", "||", " and ", " or ", "==", "!="].iter().any(|sign| text.contains(sign))
}

/// What is called on the last of some pieces, and on the result of that.
fn chain<'r>(pieces: &[Piece<'r>]) -> Vec<(String, Vec<Piece<'r>>)> {
    let mut chain = Vec::new();
    let mut at = pieces.len() - 1;
    while chain.len() < CHAINED {
        let Some(outer) = at.checked_sub(1) else { break };
        let parent = &pieces[outer];
        if !is_first(parent, &pieces[at]) {
            break;
        }
        let (call, name) = match &*parent.kind() {
            // One piece is both the member and the call of it.
            "method_invocation" | "member_call_expression" | "nullsafe_member_call_expression" => {
                (outer, parent.field("name"))
            }
            "member_access_expression" | "member_expression" | "attribute" | "navigation_expression" => {
                let Some(call) = outer.checked_sub(1) else { break };
                let is_call =
                    matches!(&*pieces[call].kind(), "invocation_expression" | "call_expression" | "call");
                if !is_call || !is_first(&pieces[call], parent) {
                    break;
                }
                let last = parent.children().filter(Piece::is_named).last();
                (call, last)
            }
            _ => break,
        };
        let Some(name) = name else { break };
        let name = name.text().split(['<', '[']).next().unwrap_or_default().trim().to_owned();
        chain.push((name, arguments(&pieces[call])));
        at = call;
    }
    chain
}

/// The arguments of a call.
fn arguments<'r>(call: &Piece<'r>) -> Vec<Piece<'r>> {
    let is_list =
        |child: &Piece<'_>| matches!(&*child.kind(), "arguments" | "argument_list" | "value_arguments");
    let list = call.children().find(is_list);
    let named = list.into_iter().flat_map(|list| list.children().filter(Piece::is_named).collect::<Vec<_>>());
    named.collect()
}
