//! `empty-file`: a manifest that defines nothing.

use crate::audit::{Context, Sink, report_troubles};
use crate::facts::TroubleKind;
use crate::finding::Severity;
use crate::rules::{Family, Rule, Scope};

/// The rule.
pub static RULE: Rule = Rule {
    name: "empty-file",
    family: Family::Reading,
    severity: Severity::Warning,
    summary: "a manifest that defines nothing",
    why: "A file that was meant to hold definitions and holds none was mostly saved at the wrong moment, or its \
          content was lost in a merge.",
    limits: "A manifest that says something about its module (`about`, `uses`) is not empty.",
    faulty: r#"
//- clock.wiring.yaml
# the clock moved
"#,
    corrected: r#"
//- clock.wiring.yaml
corvant: 1
module: clock
about: The clock moved to the platform team
"#,
    scope: Scope::Files,
    check,
};

fn check(context: &Context<'_>, sink: &mut Sink) {
    report_troubles(&RULE, TroubleKind::Empty, context, sink);
}
