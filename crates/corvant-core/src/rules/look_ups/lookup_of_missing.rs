//! `lookup-of-missing`: a look-up by a constant name that nothing defines.

use crate::finding::{Certainty, Family, Finding, RuleText, Scope, Severity};
use crate::rules::Rule;
use crate::views::{Check, Sink, Sought, StageView};
use crate::wording::EditSort;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "lookup-of-missing",
        family: Family::LookUps,
        severity: Severity::Error,
        summary: "a look-up by a constant name that nothing defines",
        why: "The line fails when it is reached, and not before.",
        limits: "Names that the host platform supplies are assumed to be there, and those in text that could not be read \
             are taken to be defined there.",
        fixes: Certainty::Certain,
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
entries:
  stop-display: { needs: { clock: { service: timetable.clok, via: look-up, optional: false } } }
"#,
        corrected: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
services:
  timetable.clok: { type: velmora.timetable.Clock }
entries:
  stop-display: { needs: { clock: { service: timetable.clok, via: look-up, optional: false } } }
"#,
        scope: Scope::Stage,
    },
    check: Check::Stage(check),
};

fn check(view: &StageView<'_>, sink: &mut Sink) {
    for lack in view.certain_lacks() {
        let Sought::Service(id) = lack.sought else { continue };
        // Needed in any other way as well, it is simply missing.
        if !lack.uses.iter().all(|used| used.look_up) {
            continue;
        }
        let text = view.text(id);
        let message = format!("nothing defines {text}, which is looked up by that name");
        let mut finding = Finding::new(&RULE.text, text, message).used_by(&lack.uses);
        if let Some(meant) = lack.meant
            && let Some(service) = view.first_definition(meant.name)
        {
            finding = finding.fix(view.write(&view.whereabouts(service), &lack.uses, id, meant));
        }
        let own = || "list it under `supplied: services`".to_owned();
        let supply = view.say(lack.uses[0].source, EditSort::Supplied, text, own);
        sink.report(finding.advice(format!("define {text}, or {supply}")));
    }
}
