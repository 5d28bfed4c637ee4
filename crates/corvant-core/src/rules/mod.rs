//! The rules: one file each, below the folder of its family.
//!
//! A rule is a `Rule` value: its texts with its two examples, and its check. Naming it in `registry!` below
//! is all it takes to make it known: to the audit, to the whole-registry tests, and to all that is made from
//! the rules' texts.

use crate::finding::RuleText;
use crate::views::Check;

/// A rule: what it says, and what it does.
#[derive(Debug)]
pub(crate) struct Rule {
    /// What it says.
    pub(crate) text: RuleText,
    /// Reports what it finds.
    pub(crate) check: Check,
}

macro_rules! registry {
    ($($family:ident { $($rule:ident)* })*) => {
        $(#[doc = concat!("The rules of the family `", stringify!($family), "`.")]
        pub(crate) mod $family {
            $(pub(crate) mod $rule;)*
        })*

        /// All rules, family by family.
        pub(crate) static RULES: &[&Rule] = &[$($(&$family::$rule::RULE,)*)*];

        /// What they say, in the same order.
        pub static TEXTS: &[&RuleText] = &[$($(&$family::$rule::RULE.text,)*)*];

        #[cfg(test)]
        const FILES: &[(&str, &str)] = &[$($((stringify!($family), stringify!($rule)),)*)*];
    };
}

registry! {
    reading { unreadable_file unknown_field wrong_shape repeated_field empty_file missing_import }
    missing { missing_service missing_implementation missing_key missing_setting missing_module missing_provider missing_carrier missing_type missing_method unscanned_mark }
    cycles { service_cycle module_cycle definition_cycle }
    unused { unused_service unused_alias unused_setting unused_contract unused_tag unused_choice unlisted_provider unused_use stale_allowance }
    tags { unknown_tag tag_attribute tag_contract untagged_service repeated_tag uncollected_tag tag_order_tie }
    ambiguity { ambiguous_implementation duplicate_service duplicate_key duplicate_default choice_mismatch conflicting_declaration lookalike_id }
    lifetimes { short_lived_need }
    providers { duplicate_provider needed_too_early empty_promise }
    boundaries { undeclared_use internal_reach }
    types { contract_not_implemented argument_mismatch abstract_type }
    look_ups { hidden_need lookup_of_missing repeated_lookup }
    expectations { unmet_expectation }
}

#[cfg(test)]
mod tests;
