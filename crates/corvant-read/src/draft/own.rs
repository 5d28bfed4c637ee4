//! Needs of items whose names leave their module out: those mean what their own module has.

use super::likeness::{Likeness, without};
use super::lines::text;
use super::links::Target;
use super::pattern::Pattern;
use super::references::CONTRACT;
use super::write::Writer;
use std::collections::{BTreeMap, BTreeSet};

/// What is written in a field: how, what it names and as what, and in how many values.
#[derive(Clone, Copy)]
pub(super) struct Taken<'t> {
    pub(super) pattern: &'t Pattern,
    pub(super) target: Target,
    pub(super) group: &'static str,
    pub(super) count: usize,
}

/// The sorts that stand in a field with nothing around them.
fn alone(taken: &[Taken<'_>]) -> BTreeSet<&'static str> {
    taken.iter().filter(|taken| taken.pattern.is_alone()).map(|taken| taken.group).collect()
}

/// Whether sorts that are written in one way can be told apart: a capital tells contracts.
pub(super) fn are_told_apart(taken: &[Taken<'_>]) -> bool {
    let alone = alone(taken);
    alone.len() < 2 || alone.len() == 2 && alone.contains("contract")
}

impl Writer<'_, '_, '_> {
    /// Needs of what stands at a path, one for each line, with what speaks for it.
    pub(super) fn needs_of(&mut self, part: &str, each: &str, lines: Vec<(String, String)>) {
        for (line, evidence) in lines {
            self.lines.part(part);
            self.lines.told(&format!("each = {}", text(each)), &evidence);
            self.lines.plain(&line);
        }
    }

    /// What is needed, for each sort and way to write, with what speaks for it: to names that leave their module out it is added.
    /// `rest` is the path of the field from what holds it.
    pub(super) fn own_lines(&self, number: usize, rest: &str, taken: &[Taken<'_>]) -> Vec<(String, String)> {
        let mut ways: BTreeMap<(&Pattern, &'static str), usize> = BTreeMap::new();
        for taken in taken {
            *ways.entry((taken.pattern, taken.group)).or_default() += taken.count;
        }
        let has_rivals = alone(taken).len() > 1;
        let field = &self.study.fields[number];
        let line = |(&(pattern, group), count): (&(&Pattern, &'static str), &usize)| {
            let is_only = ways.len() == 1 && pattern.is_alone() && self.links.hits[number].missed.is_empty();
            let matching = if is_only {
                String::new()
            } else {
                let names = self.names_of(taken, (pattern, group), has_rivals);
                format!(", match = {}", text(&pattern.unnamed(&names)))
            };
            let (form, whose) = pattern.own_module().map_or_else(Default::default, |between| {
                let form = text(&format!("{{module}}{between}{{}}"));
                (format!(", form = {form}"), " of their own module")
            });
            let line = format!("{group} = {}", Self::field_with(field, rest, &format!("{matching}{form}")));
            (line, format!("{count} of {} are {group}s{whose}", field.values.len()))
        };
        ways.iter().map(line).collect()
    }

    /// An expression for the names of a sort that are written in one way.
    fn names_of(&self, taken: &[Taken<'_>], (pattern, group): (&Pattern, &str), has_rivals: bool) -> String {
        let letters = self.letters(group);
        if has_rivals && group == "contract" && pattern.is_alone() {
            return CONTRACT.to_owned();
        }
        let first = (has_rivals && pattern.is_alone()).then_some("[a-z]");
        let same = taken.iter().filter(|taken| taken.group == group);
        // What has the sign between module and name says its module.
        if let Some(between) = pattern.own_module() {
            let is_ambiguous = same.clone().any(|taken| taken.pattern.own_module().is_none());
            let sign = between.chars().next().unwrap_or('.');
            let letters = if is_ambiguous { without(&letters, sign) } else { letters };
            return format!("{}[{letters}]{}", first.unwrap_or(""), if first.is_some() { "*" } else { "+" });
        }
        let alike = same.filter_map(|taken| (taken.pattern == pattern).then_some(taken.target));
        let alike = alike.filter_map(|target| self.links.alike(target)).reduce(Likeness::and);
        alike.map_or_else(|| format!("[{letters}]+"), |alike| alike.expression(first, &letters))
    }
}
