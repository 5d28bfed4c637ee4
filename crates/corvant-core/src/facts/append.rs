//! Appending one file's facts to those of the files before it.

use super::{Facts, Many, SourceIndex, Trouble};

/// How far each flat array's elements move when appended.
struct Shift {
    named: u32,
    needs: u32,
    taggings: u32,
    attributes: u32,
    attribute_rules: u32,
    stage_values: u32,
}

/// An item that knows its file and the ranges it holds.
trait Item {
    fn moved(self, source: SourceIndex, shift: &Shift) -> Self;
}

macro_rules! items {
    ($($item:ident { $($field:ident in $table:ident),* $(; $maybe:ident in $maybe_table:ident)* })*) => {
        $(#[allow(clippy::needless_update, reason = "a roster is nothing but its ranges")]
        impl Item for super::$item {
            fn moved(self, source: SourceIndex, _shift: &Shift) -> Self {
                Self {
                    source,
                    $($field: self.$field.shifted(_shift.$table),)*
                    $($maybe: self.$maybe.map(|many: Many<_>| many.shifted(_shift.$maybe_table)),)*
                    ..self
                }
            }
        })*
    };
}

items! {
    Service { offers in named, needs in needs, taggings in taggings, stages in named }
    Setting { references in named, stages in stage_values }
    Contract { extends in named, keys in named }
    Tag { ; attributes in attribute_rules }
    Provider { register in needs, start in needs, after in named; registers in named }
    Roster { providers in named }
    Entry { needs in needs }
    Tagging { attributes in attributes }
    Choice {}
    Supplied {}
    Expectation {}
    Allowance {}
    Need {}
}

impl Item for Trouble {
    fn moved(self, source: SourceIndex, _: &Shift) -> Self {
        Self { source, ..self }
    }
}

fn append<T: Item>(to: &mut Vec<T>, from: Vec<T>, source: SourceIndex, shift: &Shift) {
    to.extend(from.into_iter().map(|item| item.moved(source, shift)));
}

impl Facts {
    /// Makes room for the facts of many files at once in the arrays that grow with the number of services.
    pub fn reserve_for<'a>(&mut self, others: impl Iterator<Item = &'a Self> + Clone) {
        self.services.reserve(others.clone().map(|facts| facts.services.len()).sum());
        self.needs.reserve(others.clone().map(|facts| facts.needs.len()).sum());
        self.named.reserve(others.clone().map(|facts| facts.named.len()).sum());
        self.taggings.reserve(others.clone().map(|facts| facts.taggings.len()).sum());
        self.settings.reserve(others.map(|facts| facts.settings.len()).sum());
    }

    /// Appends the facts of the file `source`; ranges are moved to where their elements now are.
    pub fn append(&mut self, other: Self, source: SourceIndex) {
        let shift = Shift {
            named: self.named.len() as u32,
            needs: self.needs.len() as u32,
            taggings: self.taggings.len() as u32,
            attributes: self.attributes.len() as u32,
            attribute_rules: self.attribute_rules.len() as u32,
            stage_values: self.stage_values.len() as u32,
        };
        self.uses.extend(other.uses.into_iter().map(|(_, module)| (source, module)));
        self.disabled.extend(other.disabled.into_iter().map(|(_, module)| (source, module)));
        self.stages.extend(other.stages);
        self.types.extend(other.types);
        self.derived.extend(other.derived.into_iter().map(|derived| super::Derived { source, ..derived }));
        append(&mut self.settings, other.settings, source, &shift);
        append(&mut self.contracts, other.contracts, source, &shift);
        append(&mut self.tags, other.tags, source, &shift);
        append(&mut self.services, other.services, source, &shift);
        append(&mut self.choices, other.choices, source, &shift);
        append(&mut self.providers, other.providers, source, &shift);
        append(&mut self.rosters, other.rosters, source, &shift);
        append(&mut self.entries, other.entries, source, &shift);
        append(&mut self.supplied, other.supplied, source, &shift);
        append(&mut self.expectations, other.expectations, source, &shift);
        append(&mut self.allowances, other.allowances, source, &shift);
        append(&mut self.troubles, other.troubles, source, &shift);
        append(&mut self.needs, other.needs, source, &shift);
        append(&mut self.taggings, other.taggings, source, &shift);
        self.named.extend(other.named);
        self.attributes.extend(other.attributes);
        self.attribute_rules.extend(other.attribute_rules.into_iter().map(|rule| {
            let one_of = rule.one_of.shifted(shift.named);
            super::AttributeRule { one_of, ..rule }
        }));
        self.stage_values.extend(other.stage_values.into_iter().map(|value| {
            let references = value.references.shifted(shift.named);
            super::StageValue { references, ..value }
        }));
    }
}
