//! `unreadable-file`: a file or folder that could not be read.

use crate::facts::TroubleKind;
use crate::finding::{Family, RuleText, Scope, Severity};
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
             unread text are not reported as missing, and services that it mentions not as unused. A link \
             that leads back to a folder above it is a note, since nothing is lost by it.",
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
    let before = sink.len();
    view.report_troubles(&RULE.text, TroubleKind::LinkCycle, sink);
    sink.soften(before, Severity::Note);
}

#[cfg(test)]
mod tests {
    use corvant_testing::expect;

    #[test]
    fn what_the_unread_text_may_define_is_not_missing() {
        expect(
            r#"
//- clock.wiring.yaml
corvant: 1
module: clock
services:
  clock.system: { type: velmora.clock.SystemClock, offers: [Clock }
                                                           ^ unreadable-file clock.wiring.yaml
//- web.wiring.yaml
corvant: 1
module: web
services:
  web.banner: { type: velmora.web.Banner }
entries:
  station-clock:
    needs: { clock: { contract: Clock }, main: { service: clock.system }, banner: { service: web.banner } }
"#,
        );
    }

    #[test]
    fn what_the_unread_text_uses_is_not_unused() {
        expect(
            r#"
//- clock.wiring.yaml
corvant: 1
module: clock
services:
  clock.system: { type: velmora.clock.SystemClock }
  clock.spare: { type: velmora.clock.SpareClock }
  ^^^^^^^^^^^ unused-service clock.spare
entries:
  tick: {}
//- web.wiring.yaml
corvant: 1
module: web
entries:
  station-clock: { needs: { clock: { service: clock.system }
 unreadable-file web.wiring.yaml
"#,
        );
    }
}
