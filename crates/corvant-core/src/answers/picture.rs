//! The graph, or a part of it, to be drawn or handed to other tools.

use super::{Subject, View, why};
use crate::audit::Report;
use crate::facts::{Target, Via};
use crate::finding::Severity;
use crate::graph::knots::knots;
use crate::graph::plain::{self, Plain};
use crate::graph::{Edge, Node, What};
use crate::resolve::{Met, needs_of};
use crate::source::Place;
use crate::wiring::{ModuleIndex, NeedIndex};
use foldhash::{HashMap, HashSet};
use std::collections::BTreeMap;

/// What is to be in the picture.
#[derive(Clone, Debug, Default)]
pub struct Frame {
    /// Only what is around these; empty: everything.
    pub around: Vec<Subject>,
    /// How many steps from them.
    pub depth: usize,
    /// In which direction.
    pub direction: Direction,
    /// Only knots.
    pub only_knots: bool,
    /// Only what findings blame, with its neighbours.
    pub only_faults: bool,
    /// Modules in place of services.
    pub by_module: bool,
}

/// A direction to look in.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default)]
pub enum Direction {
    /// To what is needed.
    Needs,
    /// To who needs it.
    Users,
    /// Both.
    #[default]
    Both,
}

/// A graph to be drawn.
#[derive(Clone, PartialEq, Eq, Debug, Default)]
pub struct Picture {
    /// In the order of their names.
    pub nodes: Vec<Drawn>,
    /// In the order of their ends.
    pub edges: Vec<Line>,
    /// Sets of nodes, by number, that all need one another.
    pub knots: Vec<Vec<usize>>,
}

impl Picture {
    /// By node the number of the knot that it is in.
    pub fn knot_of(&self) -> Vec<Option<usize>> {
        let mut knot_of = vec![None; self.nodes.len()];
        for (number, knot) in self.knots.iter().enumerate() {
            for &node in knot {
                knot_of[node] = Some(number);
            }
        }
        knot_of
    }
}

/// What a node of a picture is.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub enum Sort {
    /// An entry.
    Entry,
    /// A provider.
    Provider,
    /// A service.
    Service,
    /// A tag, or all that offer a contract.
    Group,
    /// A contract that several claim and nothing settles.
    Question,
    /// A module.
    Module,
    /// Something that is needed and that nobody has.
    Missing,
}

impl Sort {
    /// All sorts with the word for each.
    pub const ALL: [(&'static str, Self); 7] = [
        ("entry", Self::Entry),
        ("provider", Self::Provider),
        ("service", Self::Service),
        ("group", Self::Group),
        ("question", Self::Question),
        ("module", Self::Module),
        ("missing", Self::Missing),
    ];

    /// The word for it.
    pub fn word(self) -> &'static str {
        Self::ALL.iter().find(|(_, sort)| *sort == self).map_or("", |(word, _)| word)
    }
}

/// A node of a picture.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Drawn {
    /// What it is called.
    pub name: String,
    /// What it is.
    pub sort: Sort,
    /// The module that defines it.
    pub module: Option<String>,
    /// The worst finding that blames it.
    pub fault: Option<Severity>,
    /// Whether the picture was asked for around it.
    pub is_center: bool,
    /// Where it is defined.
    pub place: Option<Place>,
}

/// How an edge is met.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub enum Manner {
    /// While building.
    Building,
    /// After building.
    Later,
    /// On first use.
    Lazy,
    /// It may be absent.
    Optional,
    /// As one of those that carry a tag or offer a contract.
    Member,
    /// It is not met.
    Unmet,
}

impl Manner {
    /// All manners with the word for each.
    pub const ALL: [(&'static str, Self); 6] = [
        ("building", Self::Building),
        ("later", Self::Later),
        ("lazy", Self::Lazy),
        ("optional", Self::Optional),
        ("member", Self::Member),
        ("unmet", Self::Unmet),
    ];

    /// The word for it.
    pub fn word(self) -> &'static str {
        Self::ALL.iter().find(|(_, manner)| *manner == self).map_or("", |(word, _)| word)
    }
}

/// An edge of a picture.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub struct Line {
    /// The node that needs, by number.
    pub from: usize,
    /// The node that is needed.
    pub to: usize,
    /// How it is met.
    pub manner: Manner,
    /// The slots that it fills.
    pub slots: Vec<String>,
    /// How many needs it stands for.
    pub count: usize,
}

/// The part of the graph that a frame asks for. `report` is the audit's, for what is at fault.
pub fn picture(view: &View<'_>, frame: &Frame, report: &Report) -> Picture {
    let faults = faults(view, report);
    let centers: Vec<Node> = frame.around.iter().flat_map(|&subject| why::nodes(view, subject)).collect();
    let mut chosen: Vec<bool> = if frame.around.is_empty() {
        (0..view.graph.len() as u32).map(|node| is_of_interest(view, node)).collect()
    } else {
        around(view, &centers, frame)
    };
    if frame.only_knots {
        let in_knots: HashSet<Node> = all_knots(view).into_iter().flatten().collect();
        keep(&mut chosen, |node| in_knots.contains(&node));
    }
    if frame.only_faults {
        let near = |node: Node| {
            let edges = view.graph.needs(node).iter().chain(view.graph.needed_by(node));
            edges.into_iter().any(|edge| faults.contains_key(&edge.node))
        };
        keep(&mut chosen, |node| faults.contains_key(&node) || near(node));
    }
    let centers: HashSet<Node> = centers.into_iter().collect();
    let mut painter =
        Painter { view, frame, faults, centers, numbers: HashMap::default(), nodes: Vec::new() };
    painter.paint(&chosen)
}

fn keep(chosen: &mut [bool], is_kept: impl Fn(Node) -> bool) {
    for (node, chosen) in chosen.iter_mut().enumerate() {
        *chosen = *chosen && is_kept(node as Node);
    }
}

/// Whether a node is part of the whole picture: built, or using something.
fn is_of_interest(view: &View<'_>, node: Node) -> bool {
    match view.graph.what(node) {
        What::Service(service) => view.resolution.ids.is_built(service),
        What::Entry(_) | What::Provider(_) => true,
        What::Tag(_) | What::All(_) | What::Question(_) => {
            !view.graph.needs(node).is_empty() && !view.graph.needed_by(node).is_empty()
        }
    }
}

/// What lies within some steps of the centres, in the direction asked for. Tags and the like are no step.
fn around(view: &View<'_>, centers: &[Node], frame: &Frame) -> Vec<bool> {
    let mut chosen = vec![false; view.graph.len()];
    let directions: &[bool] = match frame.direction {
        Direction::Needs => &[true],
        Direction::Users => &[false],
        Direction::Both => &[true, false],
    };
    for &is_forward in directions {
        let mut seen: HashSet<Node> = centers.iter().copied().collect();
        let mut level: Vec<Node> = centers.to_vec();
        for _ in 0..frame.depth {
            let mut next = Vec::new();
            let mut waiting = level;
            while let Some(node) = waiting.pop() {
                let edges = if is_forward { view.graph.needs(node) } else { view.graph.needed_by(node) };
                for edge in edges.iter().filter(|edge| seen.insert(edge.node)).collect::<Vec<_>>() {
                    let is_step = matches!(
                        view.graph.what(edge.node),
                        What::Service(_) | What::Entry(_) | What::Provider(_)
                    );
                    if is_step { next.push(edge.node) } else { waiting.push(edge.node) }
                }
            }
            level = next;
        }
        for node in seen {
            chosen[node as usize] = true;
        }
    }
    chosen
}

fn all_knots(view: &View<'_>) -> Vec<Vec<Node>> {
    knots(&view.graph, |node, edge| {
        let is_look_up = edge.need_in(view.wiring).is_some_and(|need| need.via == Via::LookUp);
        !view.graph.is_question(node) && !is_look_up
    })
}

/// Nodes that findings blame, with the worst severity: those whose definitions or needs are places of one.
fn faults(view: &View<'_>, report: &Report) -> HashMap<Node, Severity> {
    let mut spans = HashMap::default();
    for node in 0..view.graph.len() as u32 {
        if let Some(place) = view.place(node) {
            spans.insert((place.source, place.span), node);
        }
        for need in needs_of(view.wiring, view.graph.what(node)).into_iter().flatten() {
            let need = &view.wiring.facts.needs[need];
            spans.entry((need.source, need.span)).or_insert(node);
        }
    }
    let mut faults: HashMap<Node, Severity> = HashMap::default();
    let stage = view.resolution.stage;
    let holds = |stages: &Option<Vec<_>>| {
        stages.as_ref().is_none_or(|stages| stage.map_or(stages.is_empty(), |stage| stages.contains(&stage)))
    };
    for finding in report.findings.iter().filter(|finding| holds(&finding.stages)) {
        for place in &finding.places {
            if let Some(&node) = spans.get(&(place.source, place.span)) {
                let worst = faults.entry(node).or_insert(finding.severity);
                *worst = (*worst).min(finding.severity);
            }
        }
    }
    faults
}

/// What a node of the picture stands for.
#[derive(Clone, PartialEq, Eq, Hash)]
enum Key {
    Node(Node),
    Module(Option<ModuleIndex>),
    Missing(String),
}

struct Painter<'v, 'a> {
    view: &'v View<'a>,
    frame: &'v Frame,
    faults: HashMap<Node, Severity>,
    centers: HashSet<Node>,
    numbers: HashMap<Key, usize>,
    nodes: Vec<Drawn>,
}

impl Painter<'_, '_> {
    fn paint(&mut self, chosen: &[bool]) -> Picture {
        let mut lines: BTreeMap<(usize, usize, Manner), (Vec<String>, usize)> = BTreeMap::new();
        // A tag is of no module; its carriers and collectors are.
        let is_drawn =
            |node: &Node| chosen[*node as usize] && (!self.frame.by_module || self.is_thing(*node));
        let drawn: Vec<Node> = (0..self.view.graph.len() as u32).filter(is_drawn).collect();
        for &node in &drawn {
            self.number(node);
        }
        for node in drawn {
            for (end, manner, slot) in self.edges(node, chosen) {
                let (from, to) = (self.number(node), end);
                if from != to || !self.frame.by_module {
                    let line = lines.entry((from, to, manner)).or_default();
                    line.0.extend(slot);
                    line.1 += 1;
                }
            }
        }
        self.sorted(lines)
    }

    fn is_thing(&self, node: Node) -> bool {
        matches!(self.view.graph.what(node), What::Service(_) | What::Entry(_) | What::Provider(_))
    }

    /// The number of a node in the picture; with modules, that of its module.
    fn number(&mut self, node: Node) -> usize {
        let view = self.view;
        let key = if self.frame.by_module { Key::Module(view.module(node)) } else { Key::Node(node) };
        let fault = self.faults.get(&node).copied();
        let is_center = self.centers.contains(&node);
        let module =
            view.module(node).map(|module| view.text(view.wiring.modules[module.index()].module.name));
        let number = *self.numbers.entry(key).or_insert_with(|| {
            let drawn = if self.frame.by_module {
                let place = view.module(node).map(|module| {
                    let module = &view.wiring.modules[module.index()];
                    Place::new(module.source, module.module.span, "defined here")
                });
                let name = module.unwrap_or("no module").to_owned();
                Drawn { name, sort: Sort::Module, module: None, fault: None, is_center: false, place }
            } else {
                let sort = match view.graph.what(node) {
                    What::Service(_) => Sort::Service,
                    What::Entry(_) => Sort::Entry,
                    What::Provider(_) => Sort::Provider,
                    What::Tag(_) | What::All(_) => Sort::Group,
                    What::Question(_) => Sort::Question,
                };
                let module = module.map(str::to_owned);
                Drawn {
                    name: view.name(node),
                    sort,
                    module,
                    fault: None,
                    is_center: false,
                    place: view.place(node),
                }
            };
            self.nodes.push(drawn);
            self.nodes.len() - 1
        });
        let drawn = &mut self.nodes[number];
        drawn.is_center |= is_center;
        drawn.fault = match (drawn.fault, fault) {
            (Some(one), Some(other)) => Some(one.min(other)),
            (one, other) => one.or(other),
        };
        number
    }

    fn missing(&mut self, name: String) -> usize {
        *self.numbers.entry(Key::Missing(name.clone())).or_insert_with(|| {
            self.nodes.push(Drawn {
                name,
                sort: Sort::Missing,
                module: None,
                fault: Some(Severity::Error),
                is_center: false,
                place: None,
            });
            self.nodes.len() - 1
        })
    }

    /// The edges of a node into the picture, with how each is met and its slot.
    fn edges(&mut self, node: Node, chosen: &[bool]) -> Vec<(usize, Manner, Option<String>)> {
        let view = self.view;
        let mut edges = Vec::new();
        for &edge in view.graph.needs(node) {
            // Between modules, who collects a tag needs the modules of all that carry it.
            let ends: Vec<Edge> = if self.frame.by_module && !self.is_thing(edge.node) {
                view.graph.needs(edge.node).to_vec()
            } else {
                vec![edge]
            };
            for end in ends.into_iter().filter(|end| chosen[end.node as usize]) {
                if self.frame.by_module && !self.is_thing(end.node) {
                    continue;
                }
                let need = edge.need_in(view.wiring);
                let slot = need.map(|need| view.text(need.slot.name).to_owned());
                edges.push((self.number(end.node), manner(view, edge), slot));
            }
        }
        if self.frame.by_module || self.frame.only_knots {
            return edges;
        }
        for number in needs_of(view.wiring, view.graph.what(node)).into_iter().flatten() {
            let need = &view.wiring.facts.needs[number];
            let met = view.resolution.met(NeedIndex(number as u32));
            let is_told = matches!(need.target, Target::Service(_) | Target::Contract(_) | Target::All(_));
            if is_told && matches!(met, Met::Missing | Met::MissingKey) {
                let missing = self.missing(view.target(need));
                edges.push((missing, Manner::Unmet, Some(view.text(need.slot.name).to_owned())));
            }
        }
        edges
    }

    /// The picture with its nodes in the order of their names.
    fn sorted(&mut self, lines: BTreeMap<(usize, usize, Manner), (Vec<String>, usize)>) -> Picture {
        let mut order: Vec<usize> = (0..self.nodes.len()).collect();
        order.sort_by(|&one, &other| {
            let key = |at: usize| {
                (
                    &self.nodes[at].name,
                    self.nodes[at].sort,
                    self.nodes[at].place.as_ref().map(|place| (place.source, place.span)),
                )
            };
            key(one).cmp(&key(other))
        });
        let mut new = vec![0; order.len()];
        for (at, &old) in order.iter().enumerate() {
            new[old] = at;
        }
        let nodes: Vec<Drawn> = order.iter().map(|&old| self.nodes[old].clone()).collect();
        let line =
            |((from, to, manner), (mut slots, count)): ((usize, usize, Manner), (Vec<String>, usize))| {
                slots.sort_unstable();
                slots.dedup();
                if self.frame.by_module {
                    slots.clear();
                }
                Line { from: new[from], to: new[to], manner, slots, count }
            };
        let mut edges: Vec<Line> = lines.into_iter().map(line).collect();
        edges.sort_unstable();
        // A question says who may be meant: no ring runs through one.
        let mut plain: Plain = vec![Vec::new(); nodes.len()];
        for line in edges.iter().filter(|line| nodes[line.from].sort != Sort::Question) {
            plain[line.from].push(line.to as u32);
        }
        let knots = plain::knots(&plain).into_iter().filter(|knot| knot.len() > 1);
        let knots = knots.map(|knot| knot.into_iter().map(|node| node as usize).collect()).collect();
        Picture { nodes, edges, knots }
    }
}

fn manner(view: &View<'_>, edge: Edge) -> Manner {
    match edge.need_in(view.wiring) {
        None => Manner::Member,
        Some(need) if need.lazy => Manner::Lazy,
        Some(need) if !need.is_for_building() => Manner::Later,
        Some(need) if need.optional => Manner::Optional,
        Some(_) => Manner::Building,
    }
}
