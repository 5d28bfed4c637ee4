//! `unlisted-provider`: a provider that is defined and not on the roster.

use crate::facts::Provider;
use crate::finding::{Certainty, Change, Family, Finding, Fix, Origin, RuleText, Scope, Severity};
use crate::graph::{Edge, Graph, Node, What};
use crate::index::ProviderIndex;
use crate::name::Name;
use crate::near::nearest;
use crate::rules::Rule;
use crate::source::{SourceIndex, Span};
use crate::views::{Check, Registrars, Sink, WholeStageView};
use crate::wiring::ServiceIndex;
use foldhash::{HashMap, HashSet};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "unlisted-provider",
        family: Family::Unused,
        severity: Severity::Warning,
        summary: "a provider that is defined and not on the roster",
        why: "It is never loaded, and what it registers is never there.",
        limits: "It is an error where something that is loaded needs what no other provider registers. Where there \
             is no roster, the rule does not run: nothing says what is loaded. A provider that some stage loads is \
             reported in another only where something there needs what it alone registers.",
        fixes: Certainty::Likely,
        faulty: r#"
//- start.wiring.yaml
corvant: 1
module: timetable
providers: { timetable.provider: {}, timetable.night: {} }
roster: [timetable.provider]
"#,
        corrected: r#"
//- start.wiring.yaml
corvant: 1
module: timetable
providers: { timetable.provider: {}, timetable.night: {} }
roster: [timetable.provider, timetable.night]
"#,
        scope: Scope::WholeStage,
    },
    check: Check::WholeStage(check),
};

fn check(view: &WholeStageView<'_>, sink: &mut Sink) {
    let Some(loaded) = loaded(view).filter(|_| !view.doubts().is_opaque()) else { return };
    let facts = &view.wiring().facts;
    let mut waiting = needed_in_vain(view, &loaded);
    // A provider that some stage loads is not forgotten: another stage may do without what it registers.
    let rosters = facts.rosters.iter().flat_map(|roster| roster.providers.of(&facts.parts));
    let anywhere: HashSet<Name> = rosters.map(|provider| provider.name).collect();
    for (number, provider) in facts.providers.iter().enumerate() {
        let name = provider.id.name;
        let uses = waiting.remove(&ProviderIndex::new(number));
        let is_forgotten = !loaded.contains(&name) && !anywhere.contains(&name);
        if (uses.is_some() || is_forgotten) && view.doubts().mentions(name).is_none() {
            sink.report(finding(view, provider, &uses.unwrap_or_default()));
        }
    }
}

/// The providers that are loaded here, if that is known. A misspelt name on the roster is a finding; the provider
/// that was meant is taken to be loaded.
fn loaded(view: &WholeStageView<'_>) -> Option<HashSet<Name>> {
    let mut loaded = view.wiring().listed(view.resolution().stage)?;
    let providers = &view.wiring().facts.providers;
    let defined: HashSet<Name> = providers.iter().map(|provider| provider.id.name).collect();
    let wanted: Vec<&str> = loaded.difference(&defined).map(|&name| view.text(name)).collect();
    // Mostly none of those that are not listed is meant: then there is no need to look at the others.
    let unlisted = providers.iter().filter(|provider| !loaded.contains(&provider.id.name));
    let unlisted: Vec<&str> = unlisted.map(|provider| view.text(provider.id.name)).collect();
    if nearest(&wanted, &unlisted).iter().any(Option::is_some) {
        let known: Vec<&str> = providers.iter().map(|provider| view.text(provider.id.name)).collect();
        let meant = nearest(&wanted, &known).into_iter().flatten();
        loaded.extend(meant.map(|meant| providers[meant].id.name));
    }
    Some(loaded)
}

/// Something that is loaded and needs what is not.
struct InVain {
    holder: Node,
    source: SourceIndex,
    span: Span,
    is_lazy: bool,
    service: ServiceIndex,
}

/// By provider that is not loaded, by number in the facts: needs of what is there on services that no loaded
/// provider registers.
fn needed_in_vain(view: &WholeStageView<'_>, loaded: &HashSet<Name>) -> HashMap<ProviderIndex, Vec<InVain>> {
    let wiring = view.wiring();
    let mut waiting: HashMap<ProviderIndex, Vec<InVain>> = HashMap::default();
    let is_unlisted = |provider: &Provider| !loaded.contains(&provider.id.name);
    if !wiring.facts.providers.iter().any(is_unlisted) {
        return waiting;
    }
    let unlisted = Registrars::new(wiring).unlisted(wiring, loaded);
    let is_there = |node: Node| !matches!(view.graph().what(node), What::Service(service) if unlisted.contains_key(&service));
    for (&service, &provider) in &unlisted {
        for &edge in view.graph().needed_by(Graph::service(service)) {
            // What is not there itself asks for nothing.
            if let Some((source, span)) = asks(view, edge.node, edge).filter(|_| is_there(edge.node)) {
                let (holder, is_lazy) = (edge.node, edge.is_lazy(wiring));
                waiting.entry(provider).or_default().push(InVain { holder, source, span, is_lazy, service });
            }
        }
    }
    for needs in waiting.values_mut() {
        needs.sort_unstable_by_key(|need| (need.holder, need.source, need.span, need.service));
    }
    waiting
}

/// Where it is written that a holder cannot do without the far end of an edge.
fn asks(view: &WholeStageView<'_>, holder: Node, edge: Edge) -> Option<(SourceIndex, Span)> {
    match (view.need(edge), view.graph().what(holder)) {
        (Some(need), _) => (!need.optional).then_some((need.source, need.span)),
        (None, What::Service(wrapper)) => {
            let wrapper = view.service(wrapper);
            Some((wrapper.source, wrapper.wraps?.span))
        }
        // Of what is collected, or may be meant, one is not missed.
        (None, _) => None,
    }
}

fn finding(view: &WholeStageView<'_>, provider: &Provider, needs: &[InVain]) -> Finding {
    let id = view.text(provider.id.name);
    let mut services: Vec<&str> = needs.iter().map(|need| view.id(need.service)).collect();
    services.sort_unstable();
    services.dedup();
    let missed = match services.as_slice() {
        [] => "what it registers is never there".to_owned(),
        [one] => format!("{one}, which it alone registers, is needed and never there"),
        [one, more @ ..] => {
            format!("{one} and {} more, which it alone registers, are needed and never there", more.len())
        }
    };
    let message = format!("{id} is not on the roster: it is never loaded, and {missed}");
    let mut finding =
        Finding::new(&RULE.text, id, message).at(provider.source, provider.id.span, "defined here");
    if !needs.is_empty() {
        finding.severity = Severity::Error;
    }
    let roster = view.wiring().rosters(view.resolution().stage).next();
    let last = roster.and_then(|roster| {
        let last = roster.providers.of(view.parts()).last()?;
        Some((roster.source, last.span))
    });
    if let Some((source, span)) = last {
        finding = finding.at(source, span, "the roster ends here");
    }
    for need in needs {
        let role = format!("{} needs {} here", view.name(need.holder), view.id(need.service));
        finding = finding.at(need.source, need.span, role);
    }
    let origins = needs.iter().map(|need| Origin { node: need.holder, while_building: !need.is_lazy });
    let here = roster.filter(|roster| roster.stage.is_none());
    let change = here.map(|roster| Change::append(roster.source, Span::at(0), "roster", id));
    let fix = Fix::likely(format!("add {id} to the roster, or take it out"), change);
    finding.fix(fix).failing(origins.collect::<Vec<_>>())
}
