//! `unused-tag`: a tag that is declared and that no service carries.

use crate::finding::{Certainty, Change, Family, Finding, Fix, RuleText, Scope, Severity};
use crate::name::Name;
use crate::near::nearest;
use crate::rules::Rule;
use crate::views::{Check, Sink, WorkspaceView};
use foldhash::HashSet;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "unused-tag",
        family: Family::Unused,
        severity: Severity::Warning,
        summary: "a tag that is declared and that no service carries",
        why: "What collects it finds nothing; or those who should carry it carry another.",
        limits: "A tag with `at-least` that too few carry is reported for that. Carriers in any stage count.",
        fixes: Certainty::Likely,
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
tags: { departure-rule: {} }
entries:
  stop-display: { needs: { rules: { tag: departure-rule } } }
"#,
        corrected: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
tags: { departure-rule: {} }
services:
  timetable.night: { type: velmora.timetable.NightRule, tags: [departure-rule] }
entries:
  stop-display: { needs: { rules: { tag: departure-rule } } }
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
    let services = view.usage().services(view.wiring());
    let taggings = services.flat_map(|service| service.taggings.of(&facts.parts));
    let mut carried: HashSet<Name> = taggings.map(|tagging| tagging.tag.name).collect();
    // A misspelt tag on a service is a finding; the tag that was meant is carried.
    let unknown: Vec<&str> =
        carried.iter().filter(|&&tag| view.graph().tag(tag).is_none()).map(|&tag| view.text(tag)).collect();
    let tags = &view.wiring().declared.tags;
    let declared: Vec<&str> = tags.iter().map(|tag| view.text(tag.tag.name)).collect();
    carried.extend(nearest(&unknown, &declared).into_iter().flatten().map(|meant| tags[meant].tag.name));
    for tag in tags {
        let name = tag.tag.name;
        if tag.at_least > 0 || !carried.insert(name) || view.doubts().mentions(name).is_some() {
            continue;
        }
        let text = view.text(name);
        let finding = Finding::new(&RULE.text, text, format!("no service carries the tag {text}"))
            .at(tag.source, tag.tag.span, "declared here")
            .fix(Fix::likely(
                "take it out, or tag the services that are meant",
                [Change::take_out(tag.source, tag.tag.span)],
            ));
        sink.report(finding);
    }
}
