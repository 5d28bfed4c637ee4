//! The graph, or a part of it, to be drawn or handed to other tools.

use super::terms::{Aim, Thing, ThingKind};
use super::{Subject, View, why};
use crate::audit::Report;
use crate::facts::{Target, Via};
use crate::finding::Severity;
use crate::graph::cycle_groups::cycle_groups;
use crate::graph::plain::{self, Plain};
use crate::graph::{Edge, Node, What};
use crate::resolve::Met;
use crate::source::{Place, SourceIndex, Span};
use crate::wiring::{ModuleIndex, NeedIndex, needs_of};
use crate::word::words;
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
    /// Only cycle groups.
    pub only_cycle_groups: bool,
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
    pub edges: Vec<PictureEdge>,
    /// Sets of nodes, by number, that all need one another.
    pub cycle_groups: Vec<Vec<usize>>,
}

impl Picture {
    /// By node the number of the cycle group that it is in.
    pub fn cycle_group_of(&self) -> Vec<Option<usize>> {
        let mut cycle_group_of = vec![None; self.nodes.len()];
        for (number, cycle_group) in self.cycle_groups.iter().enumerate() {
            for &node in cycle_group {
                cycle_group_of[node] = Some(number);
            }
        }
        cycle_group_of
    }
}

words! {
    /// What a node of a picture is.
    Sort {
        Entry "entry"
        Provider "provider"
        Service "service"
        /// A tag, or all that offer a contract.
        Group "group"
        /// A contract that several claim and nothing settles.
        Question "question"
        Module "module"
        /// Something that is needed and not found.
        Missing "missing"
    }
}

/// What a node of a picture stands for.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum StandsFor {
    /// A node of the graph.
    Thing(Thing),
    /// A module; `None`: all that belongs to none.
    Module(Option<String>),
    /// Something that is needed and not found.
    Missing(Aim),
}

impl StandsFor {
    /// What nodes are put in order by.
    fn key(&self) -> (&str, &str) {
        match self {
            Self::Thing(Thing { kind: ThingKind::Carriers | ThingKind::Offerers, name, .. })
            | Self::Missing(Aim::All(name) | Aim::Tag(name)) => ("all", name),
            Self::Thing(Thing { name, key, .. }) => (name, key.as_deref().unwrap_or_default()),
            Self::Module(name) => (name.as_deref().unwrap_or("no module"), ""),
            Self::Missing(Aim::Contract(name, _)) => ("contract", name),
            Self::Missing(Aim::Service(name) | Aim::Setting(name)) => (name, ""),
            Self::Missing(Aim::Wrapped) => ("", ""),
        }
    }
}

/// A node of a picture.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Drawn {
    /// What it stands for.
    pub stands_for: StandsFor,
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

words! {
    /// How an edge is met.
    Manner {
        /// While building.
        Building "building"
        /// After building.
        Later "later"
        /// On first use.
        Lazy "lazy"
        /// It may be absent.
        Optional "optional"
        /// As one of those that carry a tag or offer a contract.
        Member "member"
        /// It is not met.
        Unmet "unmet"
    }
}

/// An edge of a picture.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub struct PictureEdge {
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
    Selection::new(view, frame, report).picture(frame.by_module)
}

/// What of a graph is to be drawn, before it is.
#[derive(Debug)]
pub struct Selection<'v, 'a> {
    view: &'v View<'a>,
    /// By node whether it is in the picture.
    chosen: Vec<bool>,
    faults: HashMap<Node, Severity>,
    centers: HashSet<Node>,
    /// Whether what is missing is in it too.
    with_missing: bool,
}

impl<'v, 'a> Selection<'v, 'a> {
    /// Selects what a frame asks for, of whatever nodes it is to be drawn.
    pub fn new(view: &'v View<'a>, frame: &Frame, report: &Report) -> Self {
        let faults = faults(view, report);
        let centers: Vec<Node> = frame.around.iter().flat_map(|&subject| why::nodes(view, subject)).collect();
        let mut chosen: Vec<bool> = if frame.around.is_empty() {
            view.graph.nodes().map(|node| is_of_interest(view, node)).collect()
        } else {
            around(view, &centers, frame)
        };
        if frame.only_cycle_groups {
            let in_cycle_groups: HashSet<Node> = all_cycle_groups(view).into_iter().flatten().collect();
            keep(&mut chosen, |node| in_cycle_groups.contains(&node));
        }
        if frame.only_faults {
            let near = |node: Node| {
                let edges = view.graph.needs(node).iter().chain(view.graph.needed_by(node));
                edges.into_iter().any(|edge| faults.contains_key(&edge.node))
            };
            keep(&mut chosen, |node| faults.contains_key(&node) || near(node));
        }
        let centers = centers.into_iter().collect();
        Self { view, chosen, faults, centers, with_missing: !frame.only_cycle_groups }
    }

    /// How many nodes a picture by service has.
    pub fn len(&self) -> usize {
        let missing = self.nodes().flat_map(|node| self.unmet(node)).map(|(target, _)| target);
        self.nodes().count() + missing.collect::<HashSet<Aim>>().len()
    }

    /// Whether there is nothing to draw.
    pub fn is_empty(&self) -> bool {
        self.nodes().next().is_none()
    }

    /// The picture, by service or by module.
    pub fn picture(&self, by_module: bool) -> Picture {
        let painter = Painter {
            selection: self,
            by_module,
            numbers: HashMap::default(),
            members: HashMap::default(),
            nodes: Vec::new(),
        };
        painter.paint()
    }

    fn nodes(&self) -> impl Iterator<Item = Node> {
        let all = self.chosen.iter().enumerate();
        all.filter(|(_, is_chosen)| **is_chosen).map(|(node, _)| Node::new(node))
    }

    /// What a node needs and is not found, each with its slot.
    fn unmet(&self, node: Node) -> Vec<(Aim, String)> {
        let view = self.view;
        let needs = needs_of(view.wiring, node).into_iter().flatten();
        let told = |number: usize| {
            let need = &view.wiring.facts.parts.needs[number];
            (view.aim(need), view.text(need.slot.name).to_owned())
        };
        needs.filter(|&number| self.with_missing && is_unmet(view, number)).map(told).collect()
    }
}

/// Whether a need, by number, is on something that a picture can show and that is not found.
fn is_unmet(view: &View<'_>, number: usize) -> bool {
    let target = view.wiring.facts.parts.needs[number].target;
    let met = view.resolution.met(NeedIndex(number as u32));
    matches!(target, Target::Service(_) | Target::Contract(_) | Target::All(_))
        && matches!(met, Met::Missing | Met::MissingKey)
}

fn keep(chosen: &mut [bool], is_kept: impl Fn(Node) -> bool) {
    for (node, chosen) in chosen.iter_mut().enumerate() {
        *chosen = *chosen && is_kept(Node::new(node));
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
            chosen[node.index()] = true;
        }
    }
    chosen
}

fn all_cycle_groups(view: &View<'_>) -> Vec<Vec<Node>> {
    cycle_groups(&view.graph, |node, edge| {
        let is_look_up = edge.need_in(view.wiring).is_some_and(|need| need.via == Via::LookUp);
        !view.graph.is_question(node) && !is_look_up
    })
}

/// Nodes that findings blame, with the worst severity: those whose definitions or needs are places of one. What a
/// template gives to others is the template's.
fn faults(view: &View<'_>, report: &Report) -> HashMap<Node, Severity> {
    let stage = view.resolution.stage;
    let mut blamed: HashMap<(SourceIndex, Span), Severity> = HashMap::default();
    for finding in report.findings.iter().filter(|finding| finding.holds_in(stage)) {
        for place in &finding.places {
            let worst = blamed.entry((place.source, place.span)).or_insert(finding.severity);
            *worst = (*worst).min(finding.severity);
        }
    }
    let mut faults: HashMap<Node, Severity> = HashMap::default();
    let mut blame = |node: Node, severity: Severity| {
        let worst = faults.entry(node).or_insert(severity);
        *worst = (*worst).min(severity);
    };
    for node in view.graph.nodes() {
        let definition = view.place(node).and_then(|place| blamed.get(&(place.source, place.span)));
        if let Some(&severity) = definition {
            blame(node, severity);
        }
        for need in needs_of(view.wiring, node).into_iter().flatten() {
            let need = &view.wiring.facts.parts.needs[need];
            if let Some(severity) = blamed.remove(&(need.source, need.span)) {
                blame(node, severity);
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
    Missing(Aim),
}

struct Painter<'s, 'v, 'a> {
    selection: &'s Selection<'v, 'a>,
    by_module: bool,
    numbers: HashMap<Key, usize>,
    /// By tag, and by contract of which all are needed, the modules of its members: number and how many.
    members: HashMap<Node, BTreeMap<usize, usize>>,
    nodes: Vec<Drawn>,
}

/// By ends and manner the slots that an edge fills, and how many needs it stands for.
type Lines = BTreeMap<(usize, usize, Manner), (Vec<String>, usize)>;

impl Painter<'_, '_, '_> {
    fn paint(mut self) -> Picture {
        let mut lines = Lines::new();
        // A tag is of no module; its carriers and collectors are.
        let drawn: Vec<Node> =
            self.selection.nodes().filter(|&node| !self.by_module || self.is_thing(node)).collect();
        for &node in &drawn {
            self.number(node);
        }
        for node in drawn {
            if self.by_module { self.between_modules(node, &mut lines) } else { self.needs(node, &mut lines) }
        }
        self.sorted(lines)
    }

    fn is_thing(&self, node: Node) -> bool {
        let what = self.selection.view.graph.what(node);
        matches!(what, What::Service(_) | What::Entry(_) | What::Provider(_))
    }

    /// The number of a node in the picture; with modules, that of its module.
    fn number(&mut self, node: Node) -> usize {
        let view = self.selection.view;
        let key = if self.by_module { Key::Module(view.module(node)) } else { Key::Node(node) };
        let number = if let Some(&number) = self.numbers.get(&key) {
            number
        } else {
            let drawn = if self.by_module { module(view, node) } else { thing(view, node) };
            self.add(key, drawn)
        };
        let drawn = &mut self.nodes[number];
        drawn.is_center |= self.selection.centers.contains(&node);
        drawn.fault = [drawn.fault, self.selection.faults.get(&node).copied()].into_iter().flatten().min();
        number
    }

    fn missing(&mut self, aim: Aim) -> usize {
        let key = Key::Missing(aim.clone());
        match self.numbers.get(&key) {
            Some(&number) => number,
            None => self.add(
                key,
                Drawn { fault: Some(Severity::Error), ..drawn(StandsFor::Missing(aim), Sort::Missing) },
            ),
        }
    }

    fn add(&mut self, key: Key, drawn: Drawn) -> usize {
        self.nodes.push(drawn);
        self.numbers.insert(key, self.nodes.len() - 1);
        self.nodes.len() - 1
    }

    /// The edges of a node into the picture, with how each is met and its slot.
    fn needs(&mut self, node: Node, lines: &mut Lines) {
        let view = self.selection.view;
        let from = self.number(node);
        let mut line = |to: usize, manner: Manner, slot: Option<String>| {
            let line = lines.entry((from, to, manner)).or_default();
            line.0.extend(slot);
            line.1 += 1;
        };
        for &edge in view.graph.needs(node) {
            if self.selection.chosen[edge.node.index()] {
                let slot = edge.need_in(view.wiring).map(|need| view.text(need.slot.name).to_owned());
                line(self.number(edge.node), manner(view, edge), slot);
            }
        }
        for (target, slot) in self.selection.unmet(node) {
            line(self.missing(target), Manner::Unmet, Some(slot));
        }
    }

    /// The edges of a node's module. Who collects a tag needs the modules of all that carry it.
    fn between_modules(&mut self, node: Node, lines: &mut Lines) {
        let view = self.selection.view;
        let from = self.number(node);
        for &edge in view.graph.needs(node) {
            let to = if !self.is_thing(edge.node) {
                self.members(edge.node)
            } else if self.selection.chosen[edge.node.index()] {
                BTreeMap::from([(self.number(edge.node), 1)])
            } else {
                continue;
            };
            for (to, count) in to.into_iter().filter(|(to, _)| *to != from) {
                lines.entry((from, to, manner(view, edge))).or_default().1 += count;
            }
        }
    }

    /// The modules of those that carry a tag, or offer a contract, and are in the picture; worked out once.
    fn members(&mut self, group: Node) -> BTreeMap<usize, usize> {
        if let Some(known) = self.members.get(&group) {
            return known.clone();
        }
        let mut modules = BTreeMap::new();
        for edge in self.selection.view.graph.needs(group) {
            if self.selection.chosen[edge.node.index()] && self.is_thing(edge.node) {
                *modules.entry(self.number(edge.node)).or_default() += 1;
            }
        }
        self.members.insert(group, modules.clone());
        modules
    }

    /// The picture with its nodes in the order of their names.
    fn sorted(self, lines: Lines) -> Picture {
        let mut order: Vec<usize> = (0..self.nodes.len()).collect();
        order.sort_by_key(|&at| {
            let node = &self.nodes[at];
            (node.stands_for.key(), node.sort, node.place.as_ref().map(|place| (place.source, place.span)))
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
                PictureEdge { from: new[from], to: new[to], manner, slots, count }
            };
        let mut edges: Vec<PictureEdge> = lines.into_iter().map(line).collect();
        edges.sort_unstable();
        // A question says who may be meant: no cycle runs through one.
        let mut plain: Plain = vec![Vec::new(); nodes.len()];
        for line in edges.iter().filter(|line| nodes[line.from].sort != Sort::Question) {
            plain[line.from].push(line.to as u32);
        }
        let cycle_groups =
            plain::cycle_groups(&plain).into_iter().filter(|cycle_group| cycle_group.len() > 1);
        let cycle_groups = cycle_groups
            .map(|cycle_group| cycle_group.into_iter().map(|node| node as usize).collect())
            .collect();
        Picture { nodes, edges, cycle_groups }
    }
}

fn drawn(stands_for: StandsFor, sort: Sort) -> Drawn {
    Drawn { stands_for, sort, module: None, fault: None, is_center: false, place: None }
}

/// The module of a node, as it is drawn.
fn module(view: &View<'_>, node: Node) -> Drawn {
    let place = view.module(node).map(|module| {
        let module = &view.wiring.modules[module.index()];
        Place::new(module.source, module.module.span, "defined here")
    });
    Drawn { place, ..drawn(StandsFor::Module(view.module_of(node).map(str::to_owned)), Sort::Module) }
}

/// A node, as it is drawn.
fn thing(view: &View<'_>, node: Node) -> Drawn {
    let sort = match view.graph.what(node) {
        What::Service(_) => Sort::Service,
        What::Entry(_) => Sort::Entry,
        What::Provider(_) => Sort::Provider,
        What::Tag(_) | What::All(_) => Sort::Group,
        What::Question(_) => Sort::Question,
    };
    Drawn {
        module: view.module_of(node).map(str::to_owned),
        place: view.place(node),
        ..drawn(StandsFor::Thing(view.thing(node)), sort)
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
