//! `unreadable-file`: a file or folder that could not be read.

use crate::facts::TroubleKind;
use crate::finding::{Certainty, Family, Finding, RuleText, Scope, Severity};
use crate::rules::Rule;
use crate::views::{Check, FilesView, Sink};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "unreadable-file",
        family: Family::Reading,
        severity: Severity::Error,
        summary: "a file is not UTF-8, not well-formed, or cannot be opened",
        why: "Whatever the file defines is unknown to the audit, and most likely to the program that it is for: \
          every need on it fails when the application starts.",
        limits: "A file is read whole or not at all: the finding names the first place where reading failed, and \
             further faults of the same file show once that is corrected. Needs on names that stand in the \
             unread text are not reported as missing, and services that it mentions not as unused. Links that lead \
             nowhere are one finding. A link that leads back to a folder above it is a note, since nothing is lost by it.",
        fixes: Certainty::Advice,
        faulty: r#"
//- clock.wiring.yaml
corvant: 1
module: clock
services:
  clock.system: { type: velmora.clock.SystemClock, offers: [Clock }
"#,
        corrected: r#"
//- clock.wiring.yaml
corvant: 1
module: clock
services:
  clock.system: { type: velmora.clock.SystemClock, offers: [Clock] }
entries:
  station-clock:
    needs: { clock: { contract: Clock } }
"#,
        scope: Scope::Files,
    },
    check: Check::Files(check),
};

fn check(view: &FilesView<'_>, sink: &mut Sink) {
    view.report_troubles(&RULE.text, TroubleKind::Unreadable, sink);
    dead_links(view, sink);
    let before = sink.len();
    view.report_troubles(&RULE.text, TroubleKind::LinkCycle, sink);
    sink.soften(before, Severity::Note);
}

/// Links that lead nowhere: several have one cause more often than not, and are one finding.
fn dead_links(view: &FilesView<'_>, sink: &mut Sink) {
    let dead = || view.troubles().iter().filter(|trouble| trouble.kind == TroubleKind::DeadLink);
    let Some(first) = dead().next() else { return };
    let (subject, message) = match dead().count() {
        1 => (first.subject.clone(), format!("the link {} {}", first.subject, first.message)),
        count => ("dead links".to_owned(), format!("{count} links lead to what is not there")),
    };
    let finding = dead().fold(Finding::new(&RULE.text, subject, message), |finding, trouble| {
        finding.at(trouble.source, trouble.at.0, trouble.message.clone())
    });
    sink.report(finding.advice("put back what the links lead to, or take them out"));
}
