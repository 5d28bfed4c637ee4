//! `repeated-tag`: the same tag with the same attributes twice on one service.

use crate::facts::Tagging;
use crate::finding::{Certainty, Change, Family, Finding, Fix, RuleText, Scope, Severity};
use crate::name::Name;
use crate::rules::Rule;
use crate::views::{Check, Sink, StageView};
use foldhash::HashMap;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "repeated-tag",
        family: Family::Tags,
        severity: Severity::Warning,
        summary: "the same tag with the same attributes twice on one service",
        why: "It is called twice, or one of the two was meant to be another tag.",
        limits: "The same tag with different attributes is taken to be meant: a service may be collected in two \
             ways.",
        fixes: Certainty::Certain,
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
services:
  timetable.night: { type: velmora.NightRule, tags: [departure-rule, departure-rule] }
entries:
  stop-display: { needs: { rules: { tag: departure-rule } } }
"#,
        corrected: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
services:
  timetable.night: { type: velmora.NightRule, tags: [departure-rule] }
entries:
  stop-display: { needs: { rules: { tag: departure-rule } } }
"#,
        scope: Scope::Stage,
    },
    check: Check::Stage(check),
};

/// What a tagging gives, in the order of the attributes: taggings that give the same are alike.
fn given<'a>(view: &StageView<'a>, tagging: &Tagging) -> Vec<(&'a str, Name)> {
    let attributes = tagging.attributes.of(view.parts()).iter();
    let mut attributes: Vec<_> =
        attributes.map(|given| (view.text(given.attribute.name), given.value.name)).collect();
    attributes.sort_unstable_by_key(|(attribute, _)| *attribute);
    attributes
}

fn check(view: &StageView<'_>, sink: &mut Sink) {
    for (index, service) in view.services() {
        // Who inherits them finds them where they are written.
        let taggings = view.own_taggings(index).of(view.parts());
        if taggings.len() < 2 || !view.resolution().ids.is_audited(index) {
            continue;
        }
        let mut first: HashMap<_, &Tagging> = HashMap::default();
        let mut finding: Option<Finding> = None;
        let mut changes = Vec::new();
        for tagging in taggings {
            let earlier = *first.entry((tagging.tag.name, given(view, tagging))).or_insert(tagging);
            if std::ptr::eq(earlier, tagging) {
                continue;
            }
            let (id, tag) = (view.text(service.id.name), view.text(tagging.tag.name));
            let known = finding.take();
            let known = known.unwrap_or_else(|| {
                Finding::new(&RULE.text, id, format!("{id} carries {tag} twice in the same way"))
            });
            finding = Some(known.at(tagging.source, tagging.tag.span, "again here").at(
                earlier.source,
                earlier.tag.span,
                "first here",
            ));
            changes.push(Change::take_out(tagging.source, tagging.tag.span));
        }
        if let Some(finding) = finding {
            sink.report(finding.fix(Fix::certain("take away what stands again", changes)));
        }
    }
}
