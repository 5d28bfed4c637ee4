//! `missing-provider`: a provider on the roster that is not defined.

use crate::facts::{Provider, Trouble, TroubleKind};
use crate::finding::{Certainty, Family, Finding, Fix, RuleText, Scope, Severity};
use crate::name::Name;
use crate::near::meanings;
use crate::rules::Rule;
use crate::source::{SourceIndex, Span};
use crate::views::{Check, DormantKind, Sink, StageView};
use foldhash::{HashMap, HashSet};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "missing-provider",
        family: Family::Missing,
        severity: Severity::Error,
        summary: "a provider on the roster that is not defined",
        why: "The application cannot load what is not there: it fails before anything else happens.",
        limits: "A name that stands in a file that could not be read is taken to be defined there.",
        fixes: Certainty::Likely,
        faulty: r#"
//- start.wiring.yaml
corvant: 1
module: timetable
providers: { timetable.provider: {} }
roster: [Timetable.Provider, timetable.provider]
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
    let providers = view.providers();
    let defined: HashMap<Name, &Provider> =
        providers.iter().map(|provider| (provider.id.name, provider)).collect();
    let gone = MissingFiles::new(&view.for_advice().facts.troubles);
    let mut seen = HashSet::default();
    let listed = view.rosters().flat_map(|roster| {
        roster.providers.of(view.parts()).iter().map(|provider| (roster.source, *provider))
    });
    let missing: Vec<_> = listed
        .filter(|(_, listed)| {
            !defined.contains_key(&listed.name) && view.doubts().hides(listed.name).is_none()
        })
        .filter(|(source, listed)| !gone.contains(*source, listed.span) && seen.insert(listed.name))
        .collect();
    if missing.is_empty() {
        return;
    }
    let known: Vec<&str> = providers.iter().map(|provider| view.text(provider.id.name)).collect();
    let wanted: Vec<&str> = missing.iter().map(|(_, listed)| view.text(listed.name)).collect();
    for (&(source, listed), meant) in missing.iter().zip(meanings(&wanted, &known)) {
        let id = view.text(listed.name);
        let message = format!("the roster lists the provider {id}, which is not defined");
        let mut finding = Finding::new(&RULE.text, id, message).at(source, listed.span, "listed here");
        if let Some(meant) = meant {
            let provider = &providers[meant.known];
            let title =
                format!("write {} ({})", known[meant.known], view.address(provider.source, provider.id.span));
            let all = view.for_advice().facts.rosters.iter().flat_map(|roster| {
                let listed = roster.providers.of(view.parts()).iter();
                listed.map(|listed| (roster.source, *listed))
            });
            let is_listed = all.clone().any(|(_, other)| other.name == provider.id.name);
            let places = all.filter(|(_, other)| other.name == listed.name);
            let places = places.map(|(source, listed)| (source, listed.span));
            // A provider that is listed already would be so twice.
            let likeness = if is_listed { meant.likeness.at_most_likely() } else { meant.likeness };
            finding = finding.fix(Fix::rename(title, places, id, known[meant.known], likeness));
        }
        finding.fixes.extend(view.dormant(DormantKind::Provider, listed.name));
        sink.report(finding.advice("take it off the roster, or define it under `providers`"));
    }
}

/// Where files are named that are not there: what such a file defines is missing for that one cause.
struct MissingFiles(HashMap<SourceIndex, Vec<Span>>);

impl MissingFiles {
    fn new(troubles: &[Trouble]) -> Self {
        let mut places: HashMap<SourceIndex, Vec<Span>> = HashMap::default();
        for trouble in troubles.iter().filter(|trouble| trouble.kind == TroubleKind::MissingImport) {
            places.entry(trouble.source).or_default().push(trouble.at.0);
        }
        Self(places)
    }

    /// Whether a name is part of what names such a file, or the other way.
    fn contains(&self, source: SourceIndex, span: Span) -> bool {
        let mut places = self.0.get(&source).into_iter().flatten();
        places.any(|place| place.start < span.end && span.start < place.end)
    }
}
