//! The fields of Corvant's own format, version 1: which map has which.

/// The format version this program reads.
pub(crate) const VERSION: &str = "1";

/// A whole manifest.
pub(crate) const MANIFEST: &[&str] = &[
    "corvant",
    "module",
    "about",
    "uses",
    "settings",
    "contracts",
    "tags",
    "services",
    "choices",
    "providers",
    "roster",
    "entries",
    "supplied",
    "expect",
    "allow",
];
/// A setting in its long form.
pub(crate) const SETTING: &[&str] = &["value", "stages", "required", "about"];
/// A contract.
pub(crate) const CONTRACT: &[&str] = &["about", "extends", "meant-for", "keys"];
/// How a contract is meant to be consumed.
pub(crate) const MEANT_FOR: &[&str] = &["one", "key", "all"];
/// A tag declaration.
pub(crate) const TAG: &[&str] =
    &["about", "contract", "carried-by-all", "collected-by", "at-least", "attributes"];
/// An attribute in a tag declaration.
pub(crate) const ATTRIBUTE: &[&str] = &["about", "kind", "required", "unique", "one-of"];
/// A service.
pub(crate) const SERVICE: &[&str] = &[
    "about", "type", "offers", "key", "default", "lifetime", "internal", "needs", "tags", "stages",
    "alias-of", "template", "like", "wraps", "built-by", "replaces",
];
/// A need.
pub(crate) const NEED: &[&str] = &[
    "service", "contract", "key", "tag", "setting", "wrapped", "optional", "lazy", "via", "method", "about",
];
/// How a need is met.
pub(crate) const VIA: &[&str] = &["constructor", "setter", "property", "factory", "look-up"];
/// A factory.
pub(crate) const BUILT_BY: &[&str] = &["service", "method"];
/// A choice.
pub(crate) const CHOICE: &[&str] = &["default", "keys"];
/// A provider.
pub(crate) const PROVIDER: &[&str] = &["about", "type", "registers", "register", "start", "after"];
/// A phase of a provider.
pub(crate) const PHASE: &[&str] = &["needs"];
/// An entry.
pub(crate) const ENTRY: &[&str] = &["about", "type", "at", "lifetime", "needs"];
/// What the host platform brings.
pub(crate) const SUPPLIED: &[&str] = &["services", "contracts", "settings", "tags"];
/// An expectation.
pub(crate) const EXPECTATION: &[&str] = &["contract", "service", "key", "met-by", "type", "lifetime"];
/// An allowance.
pub(crate) const ALLOWANCE: &[&str] = &["rule", "subject", "reason", "until"];
