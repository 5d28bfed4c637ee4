//! Rules as SARIF's reporting descriptors.

use super::Message;
use corvant_core::finding::{RuleText, Severity};
use corvant_core::wiring::Policy;
use serde::Serialize;

/// A rule.
#[derive(Serialize)]
#[serde(rename_all = "camelCase")]
pub(super) struct Descriptor {
    id: &'static str,
    short_description: Message<'static>,
    full_description: Message<'static>,
    help: Help,
    default_configuration: Configuration,
    properties: Properties,
}

#[derive(Serialize)]
struct Help {
    text: &'static str,
    markdown: String,
}

#[derive(Serialize)]
struct Configuration {
    level: &'static str,
    enabled: bool,
}

#[derive(Serialize)]
struct Properties {
    tags: [String; 1],
}

impl Descriptor {
    /// The text of a rule, with what the workspace makes of it.
    pub(super) fn new(rule: &'static RuleText, policy: &Policy) -> Self {
        let enabled = policy.severities.get(rule.name) != Some(&None);
        Self {
            id: rule.name,
            short_description: Message::new(rule.summary),
            full_description: Message::new(rule.why),
            help: Help { text: rule.limits, markdown: markdown(rule) },
            default_configuration: Configuration { level: level(rule.severity), enabled },
            properties: Properties { tags: [rule.family.word().replace('_', "-")] },
        }
    }
}

/// SARIF's word for a severity.
pub(super) fn level(severity: Severity) -> &'static str {
    match severity {
        Severity::Error => "error",
        Severity::Warning => "warning",
        Severity::Note => "note",
    }
}

/// Why a rule matters, what it does not report, and an example with its correction.
fn markdown(rule: &RuleText) -> String {
    let example = |text: &str| format!("```yaml\n{}\n```", text.trim_matches('\n').replace("//- ", "# "));
    format!(
        "{}\n\n**Not reported.** {}\n\nThis shows it:\n\n{}\n\nThe same, corrected:\n\n{}\n",
        rule.why,
        rule.limits,
        example(rule.faulty),
        example(rule.corrected)
    )
}
