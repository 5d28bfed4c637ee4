//! `missing-setting`: a setting without a value.

use crate::facts::Setting;
use crate::finding::{Certainty, Family, Finding, RuleText, Scope, Severity};
use crate::name::Name;
use crate::rules::Rule;
use crate::views::{Check, DormantKind, Sink, Sought, StageView};
use crate::wording::EditSort;
use foldhash::{HashMap, HashMapExt};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "missing-setting",
        family: Family::Missing,
        severity: Severity::Error,
        summary: "a setting that is needed, or required, and has no value",
        why: "What needs the value cannot be built, or is built with nothing in its place.",
        limits: "Where stages give the value, the audit without a stage leaves the question to them. Settings that \
             the host platform supplies are taken on trust. Only the presence of a value is checked, not what \
             it is.",
        fixes: Certainty::Certain,
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
settings:
  timetable.horizon_minutes: 90
entries:
  stop-display: { needs: { horizon: { setting: timetable.horizon_minute } } }
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
        scope: Scope::Stage,
    },
    check: Check::Stage(check),
};

fn check(view: &StageView<'_>, sink: &mut Sink) {
    let declared_at = declarations(view);
    for lack in view.certain_lacks() {
        let Sought::Setting(setting) = lack.sought else { continue };
        let text = view.text(setting);
        let declared = view.resolution().setting(setting).is_some();
        let what = if declared { "is declared and has no value" } else { "is not defined anywhere" };
        let place = view.resolution().stage.filter(|_| declared);
        let stage = place.map_or_else(String::new, |stage| format!(" in stage {}", view.text(stage)));
        let message = format!("the setting {text} {what}{stage}; {}", view.seekers(&lack.uses));
        let mut finding = Finding::new(&RULE.text, text, message).used_by(&lack.uses);
        if let Some(meant) = lack.meant {
            let place = whereabouts(view, meant.name, &declared_at);
            finding = finding.fix(view.write(&place, &lack.uses, setting, meant));
        }
        finding.fixes.extend(view.dormant(DormantKind::Setting, setting));
        let is_own = view.is_own(lack.uses[0].source);
        let give = match (declared, view.resolution().stage) {
            (true, Some(stage)) if is_own => {
                format!("give it a value, or one under `stages: {}`", view.text(stage))
            }
            (true, Some(stage)) => format!("give it a value, or one in stage {}", view.text(stage)),
            (true, None) => "give it a value".to_owned(),
            (false, _) => view.say(lack.uses[0].source, EditSort::Setting, text, || {
                format!("add `{text}: VALUE` to the `settings` of its module")
            }),
        };
        sink.report(finding.advice(give));
    }
}

/// By setting its first declaration; empty if nothing has to be named.
fn declarations<'a>(view: &StageView<'a>) -> HashMap<Name, &'a Setting> {
    let is_wanted = view.certain_lacks().any(|lack| matches!(lack.sought, Sought::Setting(_)));
    let mut declarations = HashMap::new();
    for setting in view.settings().iter().filter(|_| is_wanted) {
        declarations.entry(setting.setting.name).or_insert(setting);
    }
    declarations
}

fn whereabouts(view: &StageView<'_>, setting: Name, declarations: &HashMap<Name, &Setting>) -> String {
    let place = declarations
        .get(&setting)
        .map_or_else(String::new, |known| format!(" ({})", view.address(known.source, known.setting.span)));
    format!("{}{place}", view.text(setting))
}
