//! `unused-setting`: a setting that nothing needs.

use crate::facts::Target;
use crate::finding::{Certainty, Change, Family, Finding, Fix, RuleText, Scope, Severity};
use crate::name::Name;
use crate::rules::Rule;
use crate::views::{Check, Sink, WorkspaceView};
use foldhash::HashSet;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "unused-setting",
        family: Family::Unused,
        severity: Severity::Warning,
        summary: "a setting that nothing needs",
        why: "People change it and wonder why nothing happens; or what should read it reads another.",
        limits: "A setting that is used inside another's value is needed. Needs of services that are themselves \
             unused count. What reads settings outside the wiring is not seen: list such a need under an entry.",
        fixes: Certainty::Likely,
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
settings:
  timetable.horizon_minutes: 90
entries:
  stop-display: {}
"#,
        corrected: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
settings:
  timetable.horizon_minutes: 90
entries:
  stop-display: { needs: { horizon: { setting: timetable.horizon_minutes } } }
"#,
        scope: Scope::Workspace,
    },
    check: Check::Workspace(check),
};

fn check(view: &WorkspaceView<'_>, sink: &mut Sink) {
    if view.doubts().is_opaque() {
        return;
    }
    let facts = &view.wiring().facts;
    let mut used: HashSet<Name> = HashSet::default();
    let needs = view.usage().needs(view.wiring());
    used.extend(needs.filter_map(|need| match need.target {
        Target::Setting(setting) => Some(setting),
        _ => None,
    }));
    for setting in &facts.settings {
        let stages = setting.stages.of(&facts.parts).iter().map(|value| value.references);
        let references = stages.chain([setting.references]).flat_map(|names| names.of(&facts.parts));
        used.extend(references.map(|reference| reference.name));
    }
    // What a misspelt name was meant to be is in use; and one that lacks its value is a finding for that.
    used.extend(view.usage().meant.iter().chain(&view.usage().lacking_settings));
    for setting in &facts.settings {
        let name = setting.setting.name;
        let may_be_used = view.doubts().mentions(name).is_some() || view.may_be_needed(setting.source);
        if !used.insert(name) || may_be_used {
            continue;
        }
        let text = view.text(name);
        let finding = Finding::new(&RULE.text, text, format!("nothing needs the setting {text}"))
            .at(setting.source, setting.setting.span, "defined here")
            .fix(Fix::likely(
                format!("take it out, or let something need {{ setting: {text} }}"),
                [Change::take_out(setting.source, setting.setting.span)],
            ));
        sink.report(finding);
    }
}
