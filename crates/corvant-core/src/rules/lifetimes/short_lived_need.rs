//! `short-lived-need`: something that lives longer holds something that lives shorter.

use crate::facts::Via;
use crate::finding::{Certainty, Family, Finding, Fix, Origin, RuleText, Scope, Severity};
use crate::graph::{Edge, Node, What};
use crate::name::Name;
use crate::rules::Rule;
use crate::views::{Check, Sink, WholeStageView};
use crate::wiring::USE;
use crate::wording::EditSort;
use foldhash::{HashMap, HashSet};

/// The rule.
pub(crate) static RULE: Rule = Rule {
    text: RuleText {
        name: "short-lived-need",
        family: Family::Lifetimes,
        severity: Severity::Error,
        summary: "something that lives longer holds something that lives shorter",
        why: "The one that is held is kept alive past its time: data of one request is seen by the next.",
        limits: "A service of lifetime `use` lives as long as its holder: it is not caught itself, but what it \
             needs is caught through it. Services that do not say how long they live, and lifetimes that nothing \
             put in an order, are not checked, nor is anything beyond them. Lazy needs, look-ups, factories \
             that build the holder, and tags hold nothing for good as far as can be seen. Of several \
             short-lived services that are caught through one and the same path, the nearest is reported.",
        fixes: Certainty::Likely,
        faulty: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
services:
  timetable.board:
    type: velmora.timetable.Board
    lifetime: process
    needs: { passenger: { service: timetable.passenger } }
  timetable.passenger: { type: velmora.timetable.Passenger, lifetime: request }
entries:
  stop-display: { needs: { board: { service: timetable.board } } }
"#,
        corrected: r#"
//- timetable.wiring.yaml
corvant: 1
module: timetable
services:
  timetable.board:
    type: velmora.timetable.Board
    lifetime: process
    needs: { passenger: { service: timetable.passenger, lazy: true } }
  timetable.passenger: { type: velmora.timetable.Passenger, lifetime: request }
entries:
  stop-display: { needs: { board: { service: timetable.board } } }
"#,
        scope: Scope::WholeStage,
    },
    check: Check::WholeStage(check),
};

/// How long a node lives.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum Life {
    /// The position in the order of shared lifetimes: the smaller, the longer.
    Shared(usize),
    /// As long as its holder.
    Holders,
    /// It is not said.
    Unknown,
}

fn check(view: &WholeStageView<'_>, sink: &mut Sink) {
    let graph = view.graph();
    let order = &view.wiring().policy.lifetimes.order;
    let words = Words::new(view);
    if !words.are_ranked() {
        return;
    }
    let lives: Vec<Life> = graph.nodes().map(|node| words.life(view, node)).collect();
    let mut told: HashSet<(Node, Node)> = HashSet::default();
    // From the shortest-lived on: who holds one of them, directly or through services of lifetime `use`.
    for rank in (1..order.len()).rev() {
        let mut held: Vec<Node> =
            graph.nodes().filter(|&node| lives[node.index()] == Life::Shared(rank)).collect();
        // The next step on the way to what is held, and what that is.
        let mut next: HashMap<Node, HeldThrough> = HashMap::default();
        let mut position = 0;
        while let Some(&node) = held.get(position) {
            position += 1;
            for &edge in graph.needed_by(node) {
                let holder = edge.node;
                if !holds(view, edge, node) {
                    continue;
                }
                match lives[holder.index()] {
                    Life::Shared(longer) if longer < rank => {
                        let caught = next.get(&node).map_or(node, |step| step.caught);
                        if told.insert((holder, caught)) {
                            let first = HeldThrough { edge, to: node, caught };
                            sink.report(finding(view, &lives, holder, first, &next));
                        }
                    }
                    Life::Holders if !next.contains_key(&holder) => {
                        let caught = next.get(&node).map_or(node, |step| step.caught);
                        next.insert(holder, HeldThrough { edge, to: node, caught });
                        held.push(holder);
                    }
                    _ => {}
                }
            }
        }
    }
}

/// Whether what has the need keeps what it gets.
fn holds(view: &WholeStageView<'_>, edge: Edge, to: Node) -> bool {
    let Some(need) = view.need(edge) else {
        // A wrapper has what it wraps inside, whether or not a need says so; tags hold nothing for good.
        return matches!(view.graph().what(to), What::Service(_));
    };
    !need.lazy && matches!(need.via, Via::Constructor | Via::Setter | Via::Property)
}

/// The words for lifetimes, looked up once.
struct Words {
    lives: HashMap<Name, Life>,
    default: Life,
}

impl Words {
    fn new(view: &WholeStageView<'_>) -> Self {
        let lifetimes = &view.wiring().policy.lifetimes;
        let shared =
            lifetimes.order.iter().enumerate().map(|(rank, word)| (word.as_str(), Life::Shared(rank)));
        let all: Vec<(&str, Life)> = shared.chain([(USE, Life::Holders)]).collect();
        let default = lifetimes.default.as_deref();
        let default =
            all.iter().find(|(word, _)| Some(*word) == default).map_or(Life::Unknown, |word| word.1);
        let named = all.iter().filter_map(|&(word, life)| Some((view.wiring().names.find(word)?, life)));
        Self { lives: named.collect(), default }
    }

    /// Whether anything may live shorter than the longest.
    fn are_ranked(&self) -> bool {
        let is_shorter = |life: &Life| matches!(life, Life::Shared(rank) if *rank > 0);
        self.lives.values().chain([&self.default]).any(is_shorter)
    }

    fn life(&self, view: &WholeStageView<'_>, node: Node) -> Life {
        let facts = &view.wiring().facts;
        let (lifetime, default) = match view.graph().what(node) {
            What::Service(service) => (view.service(service).lifetime, self.default),
            What::Entry(entry) => (facts.entries[entry.index()].lifetime, Life::Unknown),
            What::Provider(_) | What::Tag(_) | What::All(_) | What::Question(_) => (None, Life::Unknown),
        };
        match lifetime {
            Some(lifetime) => self.lives.get(&lifetime.name).copied().unwrap_or(Life::Unknown),
            None => default,
        }
    }
}

/// One step on the way from a holder to what it catches.
#[derive(Clone, Copy)]
struct HeldThrough {
    edge: Edge,
    to: Node,
    caught: Node,
}

fn finding(
    view: &WholeStageView<'_>,
    lives: &[Life],
    holder: Node,
    first: HeldThrough,
    next: &HashMap<Node, HeldThrough>,
) -> Finding {
    let caught = first.caught;
    let name = |node: Node| match view.graph().what(node) {
        What::Service(service) => view.id(service),
        What::Entry(entry) => view.text(view.wiring().facts.entries[entry.index()].id.name),
        _ => "",
    };
    let order = &view.wiring().policy.lifetimes.order;
    let word = |node: Node| match lives[node.index()] {
        Life::Shared(rank) => order[rank].as_str(),
        _ => USE,
    };
    let (holder_name, caught_name) = (name(holder), name(caught));
    let message = format!(
        "{holder_name} lives for the {} and holds {caught_name}, which lives for the {}",
        word(holder),
        word(caught)
    );
    let mut finding = Finding::new(&RULE.text, format!("{holder_name} > {caught_name}"), message);
    let mut from = holder;
    let mut step = Some(first);
    let mut slot = String::new();
    let mut lazy = None;
    while let Some(HeldThrough { edge, to, .. }) = step {
        if let Some(need) = view.need(edge) {
            let role = format!("{} holds {}", name(from), name(to));
            finding = finding.at(need.source, need.span, role);
            let held = format!("`{}` of {}", view.text(need.slot.name), name(from));
            slot = view.say(need.source, EditSort::Lazy, &held, || format!("make {held} `lazy: true`"));
            lazy = Some(need.made_lazy());
        } else if let What::Service(wrapper) = view.graph().what(from) {
            let definition = view.service(wrapper);
            let span = definition.wraps.map_or(definition.id.span, |wraps| wraps.span);
            finding = finding.at(definition.source, span, format!("{} wraps {}", name(from), name(to)));
            slot = format!("let {} need what it wraps lazily", name(from));
            lazy = None;
        }
        from = to;
        step = next.get(&to).copied();
    }
    if let What::Service(service) = view.graph().what(caught) {
        let definition = view.service(service);
        if let Some(lifetime) = definition.lifetime {
            finding = finding.at(
                definition.source,
                lifetime.span,
                format!("{caught_name} lives for the {}", word(caught)),
            );
        }
    }
    finding
        .fix(Fix::likely(format!("{slot}, so that it is asked for each time"), lazy))
        .advice(format!("or let {holder_name} live no longer than {caught_name}"))
        .failing([Origin { node: holder, while_building: true }])
}
