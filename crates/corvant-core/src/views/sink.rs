//! Where rules report to.

use super::lacks::Use;
use crate::finding::{Finding, Severity};

/// Where rules report to.
#[derive(Debug, Default)]
pub(crate) struct Sink {
    pub(crate) findings: Vec<Finding>,
}

impl Sink {
    /// How many findings were reported.
    pub(crate) fn len(&self) -> usize {
        self.findings.len()
    }

    /// Gives the findings reported since there were `before` another severity.
    pub(crate) fn soften(&mut self, before: usize, severity: Severity) {
        for finding in &mut self.findings[before..] {
            finding.severity = severity;
        }
    }

    /// Gives all findings the severity that the workspace decides in place of their rule's own. What the rule
    /// itself took for milder stays so.
    pub(crate) fn grade(&mut self, own: Severity, decided: Severity) {
        for finding in &mut self.findings {
            finding.severity = if finding.severity == own { decided } else { finding.severity.max(decided) };
        }
    }

    /// Reports a finding.
    pub(crate) fn report(&mut self, finding: Finding) {
        self.findings.push(finding);
    }
}

impl Finding {
    /// With a place, an origin and a role for each use.
    #[must_use]
    pub(crate) fn used_by(mut self, uses: &[Use]) -> Self {
        self.origins.extend(uses.iter().filter_map(|used| used.origin));
        for used in uses {
            self = self.at(used.source, used.span, used.role.clone());
        }
        self
    }
}
