//! The rules: one file each, below the folder of its family.
//!
//! A rule is a [`Rule`] value with its texts, its two examples and its check. Naming it in `registry!` below
//! is all it takes to make it known: to the audit, to the whole-registry tests, and to all that is made from
//! the rules' texts.

use crate::audit::{Context, Sink};
use crate::finding::Severity;
use crate::word::words;

/// What is checked, and why.
#[derive(Debug)]
pub struct Rule {
    /// Its name, which says the fault.
    pub name: &'static str,
    /// Its family.
    pub family: Family,
    /// How bad its findings are, unless the workspace says otherwise.
    pub severity: Severity,
    /// What it finds, on one line.
    pub summary: &'static str,
    /// Why that matters.
    pub why: &'static str,
    /// What it does not report, and why.
    pub limits: &'static str,
    /// A small wiring that shows the fault: files under `//- path` headers.
    pub faulty: &'static str,
    /// The same wiring put right.
    pub corrected: &'static str,
    /// What part of an audit it looks at.
    pub scope: Scope,
    /// Reports what it finds.
    pub check: fn(&Context<'_>, &mut Sink),
}

impl Rule {
    /// Whether its findings may hold in some stages and not in others.
    pub fn is_staged(&self) -> bool {
        matches!(self.scope, Scope::Stage | Scope::WholeStage)
    }

    /// Whether its subjects are files or paths inside them.
    pub fn is_about_files(&self) -> bool {
        self.scope == Scope::Files
    }
}

impl PartialEq for Rule {
    fn eq(&self, other: &Self) -> bool {
        self.name == other.name
    }
}

impl Eq for Rule {}

/// What part of an audit a rule looks at.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Scope {
    /// The files themselves: once.
    Files,
    /// The wiring of one stage, item by item: for each stage what is not as with none chosen. Its check looks
    /// at what [`Context`] says is to be looked at.
    Stage,
    /// The wiring of one stage as a whole: once for each.
    WholeStage,
    /// What holds in all stages together: once, after them.
    Workspace,
    /// What allowances accepted: once, at the end.
    Allowances,
}

words! {
    /// Families of rules.
    Family {
        /// What is wrong with files.
        Reading "reading"
        /// What is needed and nobody has.
        Missing "missing"
        /// What runs in a circle.
        Cycles "cycles"
        /// What nobody needs.
        Unused "unused"
        /// What is wrong with tags.
        Tags "tags"
        /// What several claim.
        Ambiguity "ambiguity"
        /// What lives too short for who holds it.
        Lifetimes "lifetimes"
        /// What start-up code registers, and when.
        Providers "providers"
        /// What modules keep to themselves.
        Boundaries "boundaries"
        /// What is found at run time instead of declared.
        LookUps "look_ups"
        /// What somebody said must hold.
        Expectations "expectations"
    }
}

macro_rules! registry {
    ($($family:ident { $($rule:ident)* })*) => {
        $(#[doc = concat!("The rules of the family `", stringify!($family), "`.")]
        pub mod $family {
            $(pub mod $rule;)*
        })*

        /// All rules, family by family.
        pub static RULES: &[&Rule] = &[$($(&$family::$rule::RULE,)*)*];

        #[cfg(test)]
        const FILES: &[(&str, &str)] = &[$($((stringify!($family), stringify!($rule)),)*)*];
    };
}

registry! {
    reading { unreadable_file unknown_field wrong_shape repeated_field empty_file }
    missing { missing_service missing_implementation missing_key missing_setting missing_module missing_provider missing_carrier missing_type }
    cycles { service_cycle module_cycle definition_cycle }
    unused { unused_service unused_alias unused_setting unused_contract unused_tag unused_choice unlisted_provider unused_use stale_allowance }
    tags { unknown_tag tag_attribute tag_contract untagged_service repeated_tag uncollected_tag tag_order_tie }
    ambiguity { ambiguous_implementation duplicate_service duplicate_key duplicate_default choice_mismatch conflicting_declaration lookalike_id }
    lifetimes { short_lived_need }
    providers { duplicate_provider needed_too_early empty_promise }
    boundaries { undeclared_use internal_reach }
    look_ups { hidden_need lookup_of_missing }
    expectations { unmet_expectation }
}

#[cfg(test)]
mod tests;
