//! `duplicate-provider`: a provider that stands on the roster twice.

use crate::facts::Named;
use crate::finding::{Certainty, Change, Family, Finding, Fix, RuleText, Scope, Severity};
use crate::name::Name;
use crate::rules::Rule;
use crate::views::{Check, Sink, StageView};
use foldhash::HashMap;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "duplicate-provider",
        family: Family::Providers,
        severity: Severity::Warning,
        summary: "a provider that stands on the roster twice",
        why: "What it registers is registered twice, or the second time fails.",
        limits: "Several rosters that list the same provider are several lists for several programs, and are not \
             compared.",
        fixes: Certainty::Certain,
        faulty: r#"
//- start.wiring.yaml
corvant: 1
module: timetable
providers: { timetable.provider: {} }
roster: [timetable.provider, timetable.provider]
"#,
        corrected: r#"
//- start.wiring.yaml
corvant: 1
module: timetable
providers: { timetable.provider: {} }
roster: [timetable.provider]
"#,
        scope: Scope::Stage,
    },
    check: Check::Stage(check),
};

fn check(view: &StageView<'_>, sink: &mut Sink) {
    for roster in view.rosters() {
        let listed = roster.providers.of(view.parts());
        let mut first: HashMap<Name, &Named> = HashMap::default();
        let mut again: HashMap<Name, Vec<&Named>> = HashMap::default();
        for provider in listed {
            if !std::ptr::eq(*first.entry(provider.name).or_insert(provider), provider) {
                again.entry(provider.name).or_default().push(provider);
            }
        }
        for listed in listed {
            let (earlier, Some(again)) = (first[&listed.name], again.get(&listed.name)) else { continue };
            if std::ptr::eq(earlier, listed) {
                continue;
            }
            let id = view.text(listed.name);
            let changes = again.iter().map(|again| Change::take_out(roster.source, again.span));
            let finding = Finding::new(&RULE.text, id, format!("{id} stands on the roster twice"))
                .at(roster.source, listed.span, "again here")
                .at(roster.source, earlier.span, "first here")
                .fix(Fix::certain("take away what stands again", changes));
            sink.report(finding);
        }
    }
}
