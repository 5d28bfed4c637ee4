//! `definition-cycle`: aliases, templates, wrappers, settings or provider order that run in a cycle.

use crate::facts::Named;
use crate::finding::{Certainty, Family, Finding, RuleText, Scope, Severity};
use crate::graph::plain::{Plain, cycles};
use crate::name::Name;
use crate::resolve::Standing;
use crate::rules::Rule;
use crate::source::{SourceIndex, Span};
use crate::views::{Check, Sink, StageView};
use foldhash::HashMap;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "definition-cycle",
        family: Family::Cycles,
        severity: Severity::Error,
        summary: "aliases, templates, wrappers, settings or provider order that run in a cycle",
        why: "A definition that leads back to itself has no beginning: there is nothing to build, inherit, wrap, \
          read or load first.",
        limits: "Aliases, wrappers and replacements may close a cycle together; models, settings and providers are \
             each looked at by themselves. What overrides other definitions of its own id is no cycle. Of several \
             definitions of one id, only the one that others take as their model is looked at as a model.",
        fixes: Certainty::Advice,
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
services:
  timetable.board: { alias-of: timetable.main }
  timetable.main: { alias-of: timetable.board }
entries:
  stop-display: { needs: { board: { service: timetable.board } } }
"#,
        corrected: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
services:
  timetable.board: { alias-of: timetable.main }
  timetable.main: { type: velmora.timetable.Board }
entries:
  stop-display: { needs: { board: { service: timetable.board } } }
"#,
        scope: Scope::Stage,
    },
    check: Check::Stage(check),
};

fn check(view: &StageView<'_>, sink: &mut Sink) {
    report(view, "models", models(view), sink);
    // A cycle is looked for whole, wherever a stage may change any of it.
    if view.is_whole() || view.services().any(|(_, service)| service.is_linked()) {
        report(view, "ids", ids(view), sink);
    }
    if view.is_whole() || view.looks_at_settings() {
        report(view, "settings", references(view), sink);
    }
    if view.is_whole() {
        let after = view.providers().iter().flat_map(|provider| {
            let after = provider.after.of(view.parts()).iter();
            after.map(|to| DefinitionLink::new(provider.source, provider.id, *to, "comes after"))
        });
        report(view, "providers", after.collect(), sink);
    }
}

/// The settings that values refer to which count here.
fn references(view: &StageView<'_>) -> Vec<DefinitionLink> {
    let referring =
        view.settings().iter().filter(|setting| !setting.references.is_empty() || !setting.stages.is_empty());
    let references = referring.flat_map(|setting| {
        let value = view.value_of(setting);
        let named = value.into_iter().flat_map(|(_, references)| references.of(view.parts()));
        named.map(|to| DefinitionLink::new(setting.source, setting.setting, *to, "refers to"))
    });
    references.collect()
}

/// What definitions are like whose models lead into a cycle, whatever stage those are limited to.
fn models(view: &StageView<'_>) -> Vec<DefinitionLink> {
    // Of several definitions of an id one is the model of others, and only that can be in a cycle.
    let services = view.models_in_cycles().map(|index| view.service(index));
    let links = services.filter_map(|service| {
        Some(DefinitionLink::new(service.source, service.id, service.like?, "is like"))
    });
    links.collect()
}

/// Whether any definition of an id that others take as their model counts here.
fn is_model_here(view: &StageView<'_>, id: Name) -> bool {
    let mut definitions = view.definitions_as_models(id);
    definitions.any(|index| view.resolution().ids.is_audited(index))
}

/// What ids lead to: an alias to what it stands for, a wrapper to what it wraps, what is replaced to what
/// replaces it.
fn ids(view: &StageView<'_>) -> Vec<DefinitionLink> {
    let ids = &view.resolution().ids;
    let mut links = Vec::new();
    for &index in view.linked().iter().filter(|&&index| ids.standing(index) >= Standing::Counting) {
        let service = view.service(index);
        let link = |to, verb| DefinitionLink::new(service.source, service.id, to, verb);
        links.extend(service.alias_of.map(|to| link(to, "is an alias of")));
        let wraps = service.wraps.filter(|_| service.may_be_built());
        links.extend(wraps.map(|to| link(to, "wraps")));
        // What overrides other definitions of its own id is no cycle, if there are any.
        let replaced = service
            .replaces
            .filter(|_| !service.overrides_itself() || !view.is_defined_again(service.id.name));
        links.extend(replaced.map(|replaced| DefinitionLink {
            source: service.source,
            from: replaced.name,
            to: service.id.name,
            span: replaced.span,
            verb: "is replaced by",
        }));
    }
    links
}

/// One definition that leads to another, and where it says so.
#[derive(Clone, Copy)]
struct DefinitionLink {
    source: SourceIndex,
    from: Name,
    to: Name,
    span: Span,
    verb: &'static str,
}

impl DefinitionLink {
    fn new(source: SourceIndex, from: Named, to: Named, verb: &'static str) -> Self {
        Self { source, from: from.name, to: to.name, span: to.span, verb }
    }
}

fn report(view: &StageView<'_>, kind: &str, links: Vec<DefinitionLink>, sink: &mut Sink) {
    if links.is_empty() {
        return;
    }
    let mut names: Vec<Name> = links.iter().map(|link| link.from).collect();
    names.sort_unstable_by_key(|&name| view.text(name));
    names.dedup();
    let number: HashMap<Name, u32> = names.iter().enumerate().map(|(at, &name)| (name, at as u32)).collect();
    let mut graph: Plain = vec![Vec::new(); names.len()];
    let mut places: HashMap<(u32, u32), DefinitionLink> = HashMap::default();
    for link in links {
        if let (Some(&from), Some(&to)) = (number.get(&link.from), number.get(&link.to)) {
            graph[from as usize].push(to);
            places.entry((from, to)).or_insert(link);
        }
    }
    for to in &mut graph {
        to.sort_unstable();
        to.dedup();
    }
    for (cycle, _) in cycles(&graph) {
        let texts: Vec<&str> = cycle.iter().map(|&at| view.text(names[at as usize])).collect();
        let subject = texts.join(" > ");
        let edges = (0..cycle.len()).map(|at| places[&(cycle[at], cycle[(at + 1) % cycle.len()])]);
        let edges: Vec<DefinitionLink> = edges.collect();
        // A cycle of models is one wherever any of them counts: what it takes over is text.
        if kind == "models" && !edges.iter().any(|edge| is_model_here(view, edge.from)) {
            continue;
        }
        let kind = if kind == "ids" { kind_of(&edges) } else { kind };
        let message = format!("{kind} run in a cycle: {subject} > {}", texts[0]);
        let mut finding = Finding::new(&RULE.text, subject, message);
        for (link, text) in edges.iter().zip(&texts) {
            let role = format!("{text} {} {}", link.verb, view.text(link.to));
            finding = finding.at(link.source, link.span, role);
        }
        sink.report(finding.advice("let one of them say something of its own instead"));
    }
}

/// What a cycle of ids consists of, in a word.
fn kind_of(edges: &[DefinitionLink]) -> &'static str {
    let all = |verb: &str| edges.iter().all(|edge| edge.verb == verb);
    if all("is an alias of") {
        "aliases"
    } else if all("wraps") {
        "wrappers"
    } else if all("is replaced by") {
        "replacements"
    } else {
        "ids"
    }
}
