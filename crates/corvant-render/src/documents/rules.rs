//! What is checked and why, version 1.

use super::{PROGRAM, Version, Worded};
use crate::out::Out;
use corvant_core::finding::{Certainty, Family, RuleText, Severity};
use schemars::JsonSchema;
use serde::Serialize;
use std::io;

/// Writes rules for programs.
pub fn write(rules: &[&RuleText], out: &mut Out<'_>) -> io::Result<()> {
    let checks = rules.iter().map(|rule| RuleDocument {
        name: rule.name,
        family: Worded(rule.family),
        severity: Worded(rule.severity),
        summary: rule.summary,
        why: rule.why,
        limits: rule.limits,
        fixes: Worded(rule.fixes),
        faulty: rule.faulty.trim_matches('\n'),
        corrected: rule.corrected.trim_matches('\n'),
    });
    super::write(&RulesDocument { corvant: PROGRAM, rules: Version, checks: checks.collect() }, out)
}

/// What is checked and why.
#[derive(Serialize, JsonSchema)]
#[schemars(rename = "rules", deny_unknown_fields)]
pub struct RulesDocument<'a> {
    /// The version of the program.
    corvant: &'static str,
    /// The version of this format.
    rules: Version<1>,
    checks: Vec<RuleDocument<'a>>,
}

#[derive(Serialize, JsonSchema)]
#[schemars(rename = "rule", deny_unknown_fields)]
struct RuleDocument<'a> {
    name: &'a str,
    family: Worded<Family>,
    /// Unless the workspace says otherwise.
    severity: Worded<Severity>,
    /// What it finds.
    summary: &'a str,
    /// Why that matters.
    why: &'a str,
    /// What it does not report, and why.
    limits: &'a str,
    /// How sure the surest edit is that it may know for a finding; advice: words only.
    fixes: Worded<Certainty>,
    /// A small wiring that shows the fault: files under `//- path` headers.
    faulty: &'a str,
    /// The same wiring, corrected.
    corrected: &'a str,
}
