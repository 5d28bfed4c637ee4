//! Needs of items whose names leave their module out: those mean what their own module has.

use super::likeness::{Likeness, without};
use super::lines::text;
use super::links::Target;
use super::pattern::Pattern;
use super::write::Writer;
use std::collections::BTreeSet;

/// What is written in a field: how, what it names and as what.
pub(super) type Taken<'t> = [(&'t Pattern, Target, &'static str)];

impl Writer<'_, '_, '_> {
    /// Needs of a field, one for each sort and way to write: to names that leave their module out it is added. `each` and `rest`
    /// are the path of the field. `false`: sorts are written in one way, and nothing here tells them apart.
    pub(super) fn own_needs(
        &mut self,
        number: usize,
        (each, rest): (&str, &str),
        taken: &Taken<'_>,
        evidence: &str,
    ) -> bool {
        let alone = taken.iter().filter(|(pattern, ..)| pattern.is_alone()).map(|(_, _, group)| *group);
        let alone: BTreeSet<&'static str> = alone.collect();
        let are_told = alone.len() < 2 || alone.len() == 2 && alone.contains("contract");
        if !are_told {
            return false;
        }
        for line in self.own_lines(number, rest, taken) {
            self.lines.part("reader.take.need");
            self.lines.told(&format!("each = {}", text(each)), evidence);
            self.lines.plain(&line);
        }
        true
    }

    /// What is needed, for each sort and way to write.
    pub(super) fn own_lines(&self, number: usize, rest: &str, taken: &Taken<'_>) -> Vec<String> {
        let ways: BTreeSet<(&Pattern, &'static str)> =
            taken.iter().map(|(pattern, _, group)| (*pattern, *group)).collect();
        let alone = ways.iter().filter(|(pattern, _)| pattern.is_alone()).map(|(_, group)| *group);
        let has_rivals = alone.collect::<BTreeSet<_>>().len() > 1;
        let field = &self.study.fields[number];
        let line = |(pattern, group): &(&Pattern, &'static str)| {
            let is_only = ways.len() == 1 && pattern.is_alone() && self.links.hits[number].missed.is_empty();
            let names = self.names_of(taken, (pattern, group), has_rivals);
            let matching = if is_only {
                String::new()
            } else {
                let expression = pattern.expression("name", &names, None).replace("(?<name>", "(");
                format!(", match = {}", text(&expression))
            };
            let form = pattern.own_module().map_or_else(String::new, |between| {
                format!(", form = {}", text(&format!("{{module}}{between}{{}}")))
            });
            format!("{group} = {}", Self::field_with(field, rest, &format!("{matching}{form}")))
        };
        ways.iter().map(line).collect()
    }

    /// An expression for the names of a sort that are written in one way.
    fn names_of(&self, taken: &Taken<'_>, (pattern, group): (&Pattern, &str), has_rivals: bool) -> String {
        let letters = self.letters(group);
        if has_rivals && group == "contract" && pattern.is_alone() {
            return r"(?:\w+[.\\])*[A-Z]\w*".to_owned();
        }
        let first = (has_rivals && pattern.is_alone()).then_some("[a-z]");
        let same = taken.iter().filter(|(_, _, other)| *other == group);
        // What has the sign between module and name says its module.
        if let Some(between) = pattern.own_module() {
            let is_ambiguous = same.clone().any(|(other, ..)| other.own_module().is_none());
            let sign = between.chars().next().unwrap_or('.');
            let letters = if is_ambiguous { without(&letters, sign) } else { letters };
            return format!("{}[{letters}]{}", first.unwrap_or(""), if first.is_some() { "*" } else { "+" });
        }
        let alike = same.filter_map(|(other, target, _)| (*other == pattern).then_some(*target));
        let alike = alike.filter_map(|target| self.links.alike(target)).reduce(Likeness::and);
        alike.map_or_else(|| format!("[{letters}]+"), |alike| alike.expression(first, &letters))
    }
}
