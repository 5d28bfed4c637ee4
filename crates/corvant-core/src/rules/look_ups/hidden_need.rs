//! `hidden-need`: a need that is found by look-up at run time instead of declared.

use crate::facts::Via;
use crate::finding::{Certainty, Family, Finding, RuleText, Scope, Severity};
use crate::rules::Rule;
use crate::views::{Check, Sink, StageView};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "hidden-need",
        family: Family::LookUps,
        severity: Severity::Note,
        summary: "a need that is found by look-up at run time instead of declared",
        why: "Readers of the constructor do not see it, tests do not replace it, and it fails only when \
          the line is reached.",
        limits: "Only look-ups that are written down as needs are seen, and those that a reader takes from the code of its type.",
        fixes: Certainty::Advice,
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
services:
  timetable.clock: { type: velmora.timetable.Clock }
  timetable.board:
    type: velmora.timetable.Board
    needs: { clock: { service: timetable.clock, via: look-up } }
entries:
  stop-display: { needs: { board: { service: timetable.board } } }
"#,
        corrected: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
services:
  timetable.clock: { type: velmora.timetable.Clock }
  timetable.board:
    type: velmora.timetable.Board
    needs: { clock: { service: timetable.clock } }
entries:
  stop-display: { needs: { board: { service: timetable.board } } }
"#,
        scope: Scope::Stage,
    },
    check: Check::Stage(check),
};

fn check(view: &StageView<'_>, sink: &mut Sink) {
    for (index, service) in view.services().filter(|&(index, _)| view.resolution().ids.is_audited(index)) {
        // Who inherits it finds it where it is written.
        let own = view.own_needs(index).of(view.parts()).iter().filter(|need| need.via == Via::LookUp);
        // What the code of its type looks up, or what looks up under its id.
        let names = [service.type_name, Some(service.id)].into_iter().flatten().map(|named| named.name);
        let mut names: Vec<_> = names.collect();
        names.dedup();
        let in_code = names.into_iter().flat_map(|name| view.look_ups(name));
        let in_code = in_code.flat_map(|entry| entry.needs.of(view.parts()));
        let mut hidden = own.chain(in_code).peekable();
        if hidden.peek().is_none() {
            continue;
        }
        let id = view.id(index);
        let mut finding =
            Finding::new(&RULE.text, id, format!("{id} looks up at run time what it could declare"));
        for need in hidden {
            let slot = view.text(need.slot.name);
            finding = finding.at(need.source, need.span, format!("`{slot}` is looked up"));
        }
        sink.report(finding.advice("take it through the constructor, lazily if it is needed late"));
    }
}
