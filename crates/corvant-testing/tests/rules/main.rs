//! Every rule, on small workspaces written inline: a file for each, as the rules themselves have.

mod every_rule;

mod ambiguity {
    mod ambiguous_implementation;
    mod choice_mismatch;
    mod conflicting_declaration;
    mod duplicate_default;
    mod duplicate_key;
    mod duplicate_service;
    mod lookalike_id;
}
mod boundaries {
    mod internal_reach;
    mod undeclared_use;
}
mod cycles {
    mod definition_cycle;
    mod module_cycle;
    mod service_cycle;
}
mod expectations {
    mod unmet_expectation;
}
mod lifetimes {
    mod short_lived_need;
}
mod look_ups {
    mod hidden_need;
    mod lookup_of_missing;
    mod repeated_lookup;
}
mod missing {
    mod missing_carrier;
    mod missing_implementation;
    mod missing_key;
    mod missing_method;
    mod missing_module;
    mod missing_provider;
    mod missing_service;
    mod missing_setting;
    mod missing_type;
    mod unscanned_mark;
}
mod providers {
    mod duplicate_provider;
    mod empty_promise;
    mod needed_too_early;
}
mod reading {
    mod missing_import;
    mod repeated_field;
    mod unknown_field;
    mod unreadable_file;
    mod wrong_shape;
}
mod tags {
    mod repeated_tag;
    mod tag_attribute;
    mod tag_contract;
    mod tag_order_tie;
    mod uncollected_tag;
    mod unknown_tag;
    mod untagged_service;
}
mod types {
    mod abstract_type;
    mod argument_mismatch;
    mod contract_not_implemented;
}
mod unused {
    mod stale_allowance;
    mod unlisted_provider;
    mod unused_alias;
    mod unused_choice;
    mod unused_contract;
    mod unused_service;
    mod unused_setting;
    mod unused_tag;
    mod unused_use;
}
