//! Usage: which services anything outside the wiring comes to use, in any stage.

use super::context::Context;
use super::lacks::{Lack, Sought};
use crate::facts::{Many, Need, Service, SuppliedKind, Tagging, Target};
use crate::graph::{Graph, Node, What};
use crate::index::{EntryIndex, QuestionIndex};
use crate::name::Name;
use crate::resolve::{Met, Standing};
use crate::source::SourceIndex;
use crate::wiring::{ModuleIndex, NeedIndex, SameId, ServiceIndex, Wiring};
use foldhash::HashSet;

/// What is used in some stage, and what is sought there in vain.
#[derive(Debug)]
pub(crate) struct Usage {
    /// By service: the most that it is in any stage, and whether something uses it in some stage.
    standings: Vec<Standing>,
    used: Vec<bool>,
    /// Where some stage is always chosen: what is used with none chosen, which counts for stages that change
    /// nothing of it.
    base: Option<Used>,
    /// By node: whether it is reached with no stage chosen; and from where, in order.
    reached: Vec<bool>,
    roots: Vec<Node>,
    /// Services that carry a tag that is not known.
    misplaced: Vec<ServiceIndex>,
    /// Names that somebody probably meant to write: misspelt by a few letters.
    pub(crate) meant: HashSet<Name>,
    /// Where such a name was meant to stand.
    pub(crate) meant_at: Vec<(SourceIndex, Name)>,
    /// Settings that lack a value.
    pub(crate) lacking_settings: HashSet<Name>,
    /// Modules of which the first needs a service of the second.
    pub(crate) needed_modules: HashSet<(ModuleIndex, ModuleIndex)>,
}

impl Usage {
    /// What is used with no stage chosen, or in the only stage that is looked at. Where some stage is always
    /// chosen, that counts for nothing itself.
    pub(crate) fn new(context: &Context<'_>, always_staged: bool) -> Self {
        let count = context.wiring.facts.services.len();
        let mut usage = Self {
            standings: vec![Standing::default(); count],
            used: vec![false; count],
            base: None,
            reached: Vec::new(),
            roots: Vec::new(),
            misplaced: misplaced(context),
            meant: HashSet::default(),
            meant_at: Vec::new(),
            lacking_settings: HashSet::default(),
            needed_modules: HashSet::default(),
        };
        usage.roots = roots(context, &usage.misplaced, context.lacks.all.iter());
        let reached = vec![false; context.graph.len()];
        let used = Used::new(context, Extent::Whole, context.lacks.all.iter(), reached, usage.roots.clone());
        usage.reached.clone_from(&used.reached);
        if always_staged {
            usage.base = Some(used);
        } else {
            usage.add(&used);
        }
        usage
    }

    /// All that a stage uses, worked out afresh.
    pub(crate) fn of_whole_stage(&self, context: &Context<'_>) -> Used {
        let roots = roots(context, &self.misplaced, context.lacks.all.iter());
        let reached = vec![false; context.graph.len()];
        Used::new(context, Extent::Whole, context.lacks.all.iter(), reached, roots)
    }

    /// What a stage uses. `base` is all with no stage chosen, and `there` the part of it that the stage may
    /// change; `here` is the same part of the stage.
    pub(crate) fn of_stage(&self, base: &Context<'_>, there: &Context<'_>, here: &Context<'_>) -> Used {
        let untouched = base.lacks.all.iter().filter(|lack| !there.lacks.has(lack.sought));
        let lacks = untouched.chain(&here.lacks.all);
        let roots = roots(here, &self.misplaced, lacks.clone());
        let nodes = || here.focus.into_iter().flat_map(|focus| &focus.nodes).copied();
        let was_reached = |&node: &Node| self.reached.get(node.index()) == Some(&true);
        let loses_nothing = |node: Node| {
            let now = here.graph.needs(node);
            (!base.graph.is_question(node) || all_meant(base, node).is_none())
                && base.graph.needs(node).iter().all(|edge| now.iter().any(|other| other.node == edge.node))
        };
        let only_grows = self.roots.iter().all(|root| roots.binary_search(root).is_ok())
            && nodes().filter(was_reached).all(loses_nothing);
        let (mut reached, mut waiting) = (Vec::new(), roots);
        if only_grows {
            // What leads on from the part that may differ leads to more, and all else to what it led to.
            reached.clone_from(&self.reached);
            let again: Vec<Node> = nodes().filter(was_reached).collect();
            for &node in &again {
                reached[node.index()] = false;
            }
            waiting.extend(again);
        }
        reached.resize(here.graph.len(), false);
        // With no stage chosen nothing counts: then the stage has to say all of it.
        if self.base.is_some() {
            Used::new(here, Extent::Whole, lacks, reached, waiting)
        } else {
            Used::new(here, Extent::Focus, here.lacks.all.iter(), reached, waiting)
        }
    }

    /// Adds what a stage uses.
    pub(crate) fn add(&mut self, other: &Used) {
        for (used, &reached) in self.used.iter_mut().zip(&other.reached) {
            *used |= reached;
        }
        for &(service, standing) in &other.standings {
            let known = &mut self.standings[service.index()];
            *known = standing.max(*known);
        }
        self.meant.extend(&other.meant);
        self.meant_at.extend(&other.meant_at);
        self.lacking_settings.extend(&other.lacking_settings);
        self.needed_modules.extend(&other.needed_modules);
    }

    /// Adds a stage that changes nothing of what holds with none chosen.
    pub(crate) fn add_unchanged(&mut self) {
        if let Some(base) = self.base.take() {
            self.add(&base);
            self.base = Some(base);
        }
    }

    /// Whether a service is built in some stage and used in none.
    pub(crate) fn is_idle(&self, service: ServiceIndex) -> bool {
        self.is_built(service) && !self.used[service.index()]
    }

    /// Whether a service is built in some stage.
    pub(crate) fn is_built(&self, service: ServiceIndex) -> bool {
        self.standings[service.index()] == Standing::Built
    }

    /// Whether what a definition says counts as use: unless another takes its place wherever it is.
    pub(crate) fn counts(&self, service: ServiceIndex) -> bool {
        self.standings[service.index()] != Standing::Overridden
    }

    /// The definitions that count somewhere.
    pub(crate) fn services<'a>(&'a self, wiring: &'a Wiring) -> impl Iterator<Item = &'a Service> {
        wiring.services().filter(|&(index, _)| self.counts(index)).map(|(_, service)| service)
    }

    /// The needs of all that counts somewhere; what several inherit may come several times.
    pub(crate) fn needs<'a>(&'a self, wiring: &'a Wiring) -> Box<dyn Iterator<Item = &'a Need> + 'a> {
        let facts = &wiring.facts;
        if !self.standings.contains(&Standing::Overridden) {
            return Box::new(facts.parts.needs.iter());
        }
        let entries = facts.entries.iter().map(|entry| entry.needs);
        let providers = facts.providers.iter().flat_map(|provider| [provider.register, provider.start]);
        let services = self.services(wiring).map(|service| service.needs);
        Box::new(services.chain(entries).chain(providers).flat_map(|needs| needs.of(&facts.parts)))
    }
}

/// What is used in one stage, or in the part of it that may differ.
#[derive(Debug, Default)]
pub(crate) struct Used {
    /// By node; services come first.
    reached: Vec<bool>,
    standings: Vec<(ServiceIndex, Standing)>,
    meant: Vec<Name>,
    meant_at: Vec<(SourceIndex, Name)>,
    lacking_settings: Vec<Name>,
    needed_modules: HashSet<(ModuleIndex, ModuleIndex)>,
}

/// How much of a stage is looked at.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Extent {
    Whole,
    /// What the context's focus holds.
    Focus,
}

impl Used {
    /// Follows needs from `waiting` to all that is not yet `reached`.
    fn new<'l>(
        context: &Context<'_>,
        part: Extent,
        lacks: impl Iterator<Item = &'l Lack>,
        mut reached: Vec<bool>,
        mut waiting: Vec<Node>,
    ) -> Self {
        let mut seen = HashSet::default();
        let decides = context.wiring.policy.same_contract != SameId::Forbid;
        let mut asked: HashSet<Name> = HashSet::default();
        let first_question = context.graph.question(QuestionIndex(0));
        while let Some(node) = waiting.pop() {
            if !std::mem::replace(&mut reached[node.index()], true) {
                waiting.extend(context.graph.needs(node).iter().map(|edge| edge.node));
                // Of several that the workspace decides between none is there for nothing.
                let needs = context.graph.needs(node).iter().filter(|_| decides);
                for need in needs.filter_map(|edge| edge.need_in(context.wiring)) {
                    if let Target::Contract(contract) = need.target
                        && asked.insert(contract)
                    {
                        let all = context.resolution.candidates(context.wiring, contract);
                        waiting.extend(all.into_iter().map(Graph::service));
                    }
                }
                if node >= first_question
                    && let Some(meant) = all_meant(context, node).filter(|meant| seen.insert(meant.as_ptr()))
                {
                    let stand_ins = meant.iter().map(|&service| context.resolution.ids.stand_in(service));
                    waiting.extend(stand_ins.map(Graph::service));
                }
            }
        }
        let focus = context.focus.filter(|_| part == Extent::Focus);
        let standing = |index: ServiceIndex| (index, context.resolution.ids.standing(index));
        let standings = match focus {
            Some(focus) => focus.services.iter().map(|&index| standing(index)).collect(),
            None => context.wiring.services().map(|(index, _)| standing(index)).collect(),
        };
        let mut used = Self { reached, standings, ..Self::default() };
        for lack in lacks {
            if let Some(meant) = lack.misspelt() {
                used.meant.push(meant);
                used.meant_at.extend(lack.uses.iter().map(|used| (used.source, meant)));
            }
            if let Sought::Setting(setting) = lack.sought {
                used.lacking_settings.push(setting);
            }
        }
        match focus {
            Some(focus) => focus.nodes.iter().for_each(|&node| used.needs(context, node)),
            None => context.graph.nodes().for_each(|node| used.needs(context, node)),
        }
        used
    }

    /// Notes which modules a node's needs lead to.
    fn needs(&mut self, context: &Context<'_>, node: Node) {
        let wiring = context.wiring;
        for edge in context.graph.needs(node) {
            if let (Some(need), What::Service(service)) =
                (edge.need_in(wiring), context.graph.what(edge.node))
                && let Some(from) = wiring.module_of(need.source)
                && let Some(to) = wiring.module_of(wiring.service(service).source)
                && from != to
            {
                self.needed_modules.insert((from, to));
            }
        }
    }
}

/// The nodes that are used from outside: entries, providers, what expectations and the platform speak of.
/// And those that another finding already says are probably meant: they are not unused, they are misspelt.
fn roots<'l>(
    context: &Context<'_>,
    misplaced: &[ServiceIndex],
    lacks: impl Iterator<Item = &'l Lack>,
) -> Vec<Node> {
    let (facts, graph, resolution) = (&context.wiring.facts, &context.graph, &context.resolution);
    let mut roots: Vec<Node> =
        (0..facts.entries.len()).map(|entry| graph.entry(EntryIndex::new(entry))).collect();
    let installed = context.wiring.services().filter(|(_, service)| service.of_standard.installed.is_some());
    roots.extend(installed.map(|(index, _)| Graph::service(index)));
    // What may not be there, or stands in only where nothing else does, is not unused for that.
    let giving_way = context.wiring.services().filter(|(_, service)| service.gives_way());
    roots.extend(giving_way.map(|(index, _)| Graph::service(index)));
    // What belongs to the host is used by the host.
    let is_trusted = |source: SourceIndex| context.wiring.headers[source.index()].trusted;
    let trusted = context.wiring.services().filter(|(_, service)| is_trusted(service.source));
    roots.extend(trusted.map(|(index, _)| Graph::service(index)));
    let id = |id: Name| resolution.ids.first(id).map(|first| Graph::service(resolution.ids.stand_in(first)));
    let contract = |contract: Name| {
        let candidates = resolution.candidates(context.wiring, contract);
        candidates.into_iter().map(Graph::service)
    };
    // Contracts all of whose services count as used, each asked for once, however many ask.
    let mut asked: HashSet<Name> = HashSet::default();
    for expectation in &facts.expectations {
        let services = [expectation.service, expectation.met_by];
        roots.extend(services.iter().flatten().filter_map(|service| id(service.name)));
        asked.extend(expectation.contract.map(|expected| expected.name));
    }
    let supplied = facts.supplied.iter().filter(|supplied| supplied.kind == SuppliedKind::Tag);
    roots.extend(supplied.filter_map(|supplied| graph.tag(supplied.name.name)));
    for lack in lacks {
        match (lack.sought, lack.misspelt()) {
            (Sought::Service(_), Some(meant)) => roots.extend(id(meant)),
            (Sought::Contract(_), Some(meant)) => _ = asked.insert(meant),
            (Sought::Key(offered, _), _) => _ = asked.insert(offered),
            _ => {}
        }
    }
    let built = misplaced.iter().filter(|&&service| resolution.ids.is_built(service));
    // What is handed out for it is what whoever it is meant for would get.
    roots.extend(built.flat_map(|&service| [service, resolution.ids.stand_in(service)].map(Graph::service)));
    roots.extend(unsettled(context));
    for name in context.doubts.mentioned() {
        roots.extend(id(name).into_iter().chain(graph.tag(name)));
        asked.insert(name);
    }
    roots.extend(asked.into_iter().flat_map(contract));
    roots.sort_unstable();
    roots.dedup();
    roots
}

/// Services that carry a tag that is not known: they are meant for some collector.
fn misplaced(context: &Context<'_>) -> Vec<ServiceIndex> {
    let is_unknown = |tagging: &Tagging| context.graph.tag(tagging.tag.name).is_none();
    let services = context.wiring.services();
    let misplaced = services
        .filter(|(_, service)| service.taggings.of(&context.wiring.facts.parts).iter().any(is_unknown));
    misplaced.map(|(index, _)| index).collect()
}

/// What would be used but for a fault that is a finding of its own.
fn unsettled(context: &Context<'_>) -> Vec<Node> {
    let (facts, graph, resolution) = (&context.wiring.facts, &context.graph, &context.resolution);
    let mut nodes = Vec::new();
    let mut promised: HashSet<Name> = HashSet::default();
    for tag in &context.wiring.declared.tags {
        let node = graph.tag(tag.tag.name);
        // A tag that nothing collects, and services that should carry it and do not.
        let is_collected = node.is_some_and(|node| !graph.needed_by(node).is_empty());
        nodes.extend(node.filter(|_| !is_collected));
        promised.extend(tag.contract.filter(|_| tag.carried_by_all).map(|contract| contract.name));
    }
    let offering = promised.into_iter().flat_map(|contract| resolution.candidates(context.wiring, contract));
    nodes.extend(offering.map(Graph::service));
    for pair in resolution.ids.duplicates() {
        // It is not known which of them will stay.
        if context.wiring.policy.same_id == SameId::Forbid {
            nodes.extend(targets(context, context.wiring.service(pair.other).needs));
            nodes.push(Graph::service(resolution.ids.stand_in(pair.other)));
        }
    }
    for provider in &facts.providers {
        // One that no roster lists has no edges.
        nodes.extend(targets(context, provider.register));
        nodes.extend(targets(context, provider.start));
    }
    nodes
}

/// The candidates of a question that nothing settles here, if they are more than edges lead to.
fn all_meant<'c>(context: &'c Context<'_>, node: Node) -> Option<&'c [ServiceIndex]> {
    let What::Question(number) = context.graph.what(node) else { return None };
    let asked = &context.resolution.ambiguous[number.index()];
    let is_open = context.resolution.question((asked.contract, asked.key)) == Some(number);
    (is_open && asked.candidates.len() > Graph::MEANT).then(|| asked.candidates.as_slice())
}

/// What needs that may not count would get.
fn targets(context: &Context<'_>, needs: Many<Need>) -> Vec<Node> {
    let met = needs.range().map(|need| context.resolution.met(NeedIndex(need as u32)));
    met.filter_map(|met| match met {
        Met::Service(service) => Some(Graph::service(service)),
        Met::Carriers(tag) => context.graph.tag(tag),
        Met::All(contract) => context.graph.all(contract),
        Met::Ambiguous(question) => Some(context.graph.question(question)),
        _ => None,
    })
    .collect()
}
