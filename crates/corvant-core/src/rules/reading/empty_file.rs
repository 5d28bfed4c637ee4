//! `empty-file`: a manifest that defines nothing.

use crate::facts::TroubleKind;
use crate::finding::{Certainty, Family, RuleText, Scope, Severity};
use crate::rules::Rule;
use crate::views::{Check, FilesView, Sink};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "empty-file",
        family: Family::Reading,
        severity: Severity::Warning,
        summary: "a manifest that defines nothing",
        why: "A file that was meant to hold definitions and holds none was mostly saved at the wrong moment, or its \
          content was lost in a merge.",
        limits: "A manifest that says something about its module (`about`, `uses`) is not empty.",
        fixes: Certainty::Advice,
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
    },
    check: Check::Files(check),
};

fn check(view: &FilesView<'_>, sink: &mut Sink) {
    view.report_troubles(&RULE.text, TroubleKind::Empty, sink);
}
