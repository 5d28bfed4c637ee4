//! `service-cycle`: services that need one another while they are built.

use crate::facts::{Need, Via};
use crate::finding::{Certainty, Family, Finding, Fix, Origin, RuleText, Scope, Severity};
use crate::graph::{Cycles, Edge, Node, What, count_cycles, openings, shortest_cycle};
use crate::rules::Rule;
use crate::source::{SourceIndex, Span};
use crate::views::{Check, Sink, StageView};
use crate::word::join_words;
use crate::wording::EditSort;
use foldhash::HashSet;

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "service-cycle",
        family: Family::Cycles,
        severity: Severity::Error,
        summary: "services that need one another in a cycle while they are built",
        why: "None of them can be built first: building any of them runs in a circle until the program gives up.",
        limits: "A cycle that a lazy, setter or property need already opens is a note. Needs that are looked up at \
             run time are not part of a cycle. In a cycle group of many thousand services the cycle that is shown may \
             not be the very shortest. The needs to make lazy are the fewest that open the whole cycle group, \
             searched for exactly in small cycle groups and by the heuristic of Eades, Lin and Smyth (1993) in large \
             ones; the help then says that fewer may do.",
        fixes: Certainty::Likely,
        faulty: r#"
//- signals.wiring.yaml
corvant: 1
module: signals
services:
  signals.interlocking: { type: velmora.Interlocking, needs: { routes: { service: signals.routes } } }
  signals.routes: { type: velmora.Routes, needs: { interlocking: { service: signals.interlocking } } }
entries:
  set-route: { needs: { routes: { service: signals.routes } } }
"#,
        corrected: r#"
//- signals.wiring.yaml
corvant: 1
module: signals
services:
  signals.interlocking: { type: velmora.Interlocking }
  signals.routes: { type: velmora.Routes, needs: { interlocking: { service: signals.interlocking } } }
entries:
  set-route: { needs: { routes: { service: signals.routes } } }
"#,
        scope: Scope::Stage,
    },
    check: Check::Stage(check),
};

fn check(view: &StageView<'_>, sink: &mut Sink) {
    let graph = view.graph();
    let is_look_up = |edge: Edge| view.need(edge).is_some_and(|need| need.via == Via::LookUp);
    let any = |node: Node, edge: Edge| !graph.is_question(node) && !is_look_up(edge);
    let building = |node: Node, edge: Edge| any(node, edge) && view.is_for_building(edge);
    let hard = view.cycle_groups(building);
    let in_hard: HashSet<Node> = hard.iter().flatten().copied().collect();
    for cycle_group in &hard {
        sink.report(finding(view, cycle_group, building));
    }
    for cycle_group in view.cycle_groups(any) {
        if cycle_group.iter().all(|node| !in_hard.contains(node)) {
            let mut finding = finding(view, &cycle_group, any);
            finding.severity = Severity::Note;
            finding.message.push_str("; a need that is not met while building opens it, so it can be built");
            finding.origins.clear();
            finding.fixes.clear();
            sink.report(finding);
        }
    }
}

fn finding(view: &StageView<'_>, cycle_group: &[Node], keep: impl Fn(Node, Edge) -> bool + Copy) -> Finding {
    let mut members = cycle_group.to_vec();
    members.sort_by_cached_key(|&node| name(view, node));
    let is_service = |node: Node| matches!(view.graph().what(node), What::Service(_));
    let (cycle, certain) = shortest_cycle(view.graph(), &members, is_service, keep);
    let services: Vec<String> = cycle
        .iter()
        .filter(|(node, _)| matches!(view.graph().what(*node), What::Service(_)))
        .map(|(node, _)| name(view, *node))
        .collect();
    let subject = services.join(" > ");
    let all = cycle_group.iter().filter(|&&node| matches!(view.graph().what(node), What::Service(_))).count();
    let mut message = match services.as_slice() {
        [one] => format!("{one} needs itself"),
        [one, ..] => format!("{} services need one another in a cycle: {subject} > {one}", services.len()),
        [] => "a cycle without services".to_owned(),
    };
    let cycles = match count_cycles(view.graph(), cycle_group, keep) {
        Cycles::Exactly(1) | Cycles::Uncounted => String::new(),
        Cycles::Exactly(count) => format!(" with {count} cycles"),
        Cycles::MoreThan(count) => format!(" with more than {count} cycles"),
    };
    if all > services.len() || !cycles.is_empty() {
        let shortest = if certain { "the shortest cycle" } else { "a short cycle" };
        message = format!("{message}; it is {shortest} in a group of {all} services{cycles}");
    }
    let mut finding = Finding::new(&RULE.text, subject, message);
    for (position, &(node, edge)) in cycle.iter().enumerate() {
        let next = cycle[(position + 1) % cycle.len()].0;
        let (source, span, role) = place(view, node, edge, next);
        finding = finding.at(source, span, role);
    }
    finding.fixes.extend(make_lazy(view, cycle_group, keep));
    finding.failing(cycle_group.iter().map(|&node| Origin { node, while_building: true }))
}

fn name(view: &StageView<'_>, node: Node) -> String {
    match view.graph().what(node) {
        What::Service(service) => view.id(service).to_owned(),
        What::Tag(tag) => format!("all that carry {}", view.text(tag)),
        What::All(contract) => format!("all that offer {}", view.text(contract)),
        // Nothing needs these, so no cycle holds them.
        What::Entry(_) | What::Provider(_) | What::Question(_) => String::new(),
    }
}

/// Where an edge of the cycle is written, and what it says.
fn place(view: &StageView<'_>, from: Node, edge: Edge, to: Node) -> (SourceIndex, Span, String) {
    let graph = view.graph();
    let (from_name, to_name) = (name(view, from), name(view, to));
    if let Some(need) = view.need(edge) {
        let role = match need.target {
            crate::facts::Target::Contract(contract) => {
                format!("{from_name} needs {}, which is {to_name}", view.text(contract))
            }
            crate::facts::Target::Service(id) if view.text(id) != to_name => {
                format!("{from_name} needs {}, which is {to_name}", view.text(id))
            }
            crate::facts::Target::Wrapped => format!("{from_name} wraps {to_name}"),
            _ => format!("{from_name} needs {to_name}"),
        };
        return (need.source, need.span, role);
    }
    if let (What::Tag(tag), What::Service(carrier)) = (graph.what(from), graph.what(to)) {
        let taggings = view.service(carrier).taggings.of(view.parts());
        if let Some(tagging) = taggings.iter().find(|tagging| tagging.tag.name == tag) {
            return (tagging.source, tagging.tag.span, format!("{to_name} carries {}", view.text(tag)));
        }
    }
    let (source, span) = match (graph.what(from), graph.what(to)) {
        (What::Service(service), _) | (_, What::Service(service)) => {
            let service = view.service(service);
            (service.source, service.id.span)
        }
        // Every cycle has services, and what is between two of them is one of theirs.
        _ => Default::default(),
    };
    (source, span, format!("{from_name} collects or wraps {to_name}"))
}

/// What it costs to make a need lazy: what is set afterwards is easily asked for later; a factory cannot wait.
fn cost(view: &StageView<'_>, edge: Edge) -> Option<u32> {
    match view.need(edge)?.via {
        Via::Setter | Via::Property => Some(1),
        Via::Constructor | Via::LookUp => Some(2),
        Via::Factory => None,
    }
}

/// How many needs the fix names.
const NAMED: usize = 6;

/// Which needs to make lazy.
fn make_lazy(
    view: &StageView<'_>,
    cycle_group: &[Node],
    keep: impl Fn(Node, Edge) -> bool + Copy,
) -> Option<Fix> {
    let opened = openings(view.graph(), cycle_group, keep, |edge| cost(view, edge))?;
    let named = opened.edges.iter().take(NAMED).filter_map(|&(node, edge)| {
        let need = view.need(edge)?;
        let slot = view.text(need.slot.name);
        Some(format!("`{slot}` of {} ({})", name(view, node), view.address(need.source, need.span)))
    });
    let needs: Vec<String> = named.collect();
    let source = opened.edges.first().and_then(|(_, edge)| view.need(*edge)).map(|need| need.source);
    let lazily = |what: &str| match source {
        Some(source) => view.say(source, EditSort::Lazy, what, || format!("make {what} `lazy: true`")),
        None => format!("make {what} `lazy: true`"),
    };
    let more = opened.edges.len().saturating_sub(NAMED);
    let few = if opened.fewest { "" } else { "; fewer may do" };
    let title = match (needs.as_slice(), opened.each_alone) {
        ([], _) => return None,
        ([one], _) => format!("{}: that opens all of it", lazily(one)),
        (several, true) if more > 0 => {
            format!("{}: {} or one of {more} others", lazily("one of these"), several.join(", "))
        }
        (several, true) => format!("{}: {}", lazily("one of these"), several.join(", ")),
        (several, false) if more > 0 => format!(
            "{} together: {} and {more} more{few}",
            lazily(&format!("{} needs", opened.edges.len())),
            several.join(", ")
        ),
        (several, false) => format!("{} together: {}{few}", lazily("these"), join_words(several)),
    };
    let changed = if opened.each_alone { 1 } else { opened.edges.len() };
    let needs = opened.edges.iter().take(changed).filter_map(|(_, edge)| view.need(*edge));
    Some(Fix::likely(title, needs.map(Need::made_lazy)))
}
