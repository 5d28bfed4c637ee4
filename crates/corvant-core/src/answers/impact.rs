//! What stops working if something goes.

use super::{Kind, Subject, View, why};
use crate::facts::{Need, Target};
use crate::graph::{Edge, Graph, Node, What};
use crate::name::Name;
use crate::resolve::{Met, needs_of};
use crate::source::Place;
use crate::wiring::{NeedIndex, ServiceIndex};
use foldhash::{HashMap, HashSet};
use std::cell::OnceCell;

/// What stops working, and what only changes, if some things were not there.
#[derive(Clone, PartialEq, Eq, Debug, Default)]
pub struct Impact {
    /// What would be gone.
    pub gone: Vec<String>,
    /// Providers that fail while the application starts.
    pub start_up: Vec<Affected>,
    /// Entries that fail at first use.
    pub entries: Vec<Affected>,
    /// Services that cannot be built or used.
    pub services: Vec<Affected>,
    /// What goes on without an optional need, or with one carrier fewer.
    pub loses: Vec<Affected>,
    /// Needs that something else would meet.
    pub replaced: Vec<Affected>,
    /// Modules with the number of things in them that fail.
    pub modules: Vec<(String, usize)>,
    /// Stages in which it is otherwise: what fails there and not with none chosen, and the other way.
    pub stages: Vec<(String, Vec<String>)>,
}

/// One thing that is affected.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Affected {
    /// What it is called.
    pub name: String,
    /// The module that defines it.
    pub module: String,
    /// How it comes to be affected.
    pub how: String,
    /// The need through which it is.
    pub place: Option<Place>,
}

/// What stops working if all of `subjects` were not there.
pub fn impact(view: &View<'_>, subjects: &[Subject]) -> Impact {
    let fallen = Fallen::new(view, subjects);
    let mut impact = fallen.told();
    impact.gone = subjects.iter().map(|subject| view.text(subject.name).to_owned()).collect();
    let base = fallen.names();
    for (stage, there) in view.by_stage(|view| Fallen::new(view, subjects).names()) {
        let mut words: Vec<String> =
            there.difference(&base).map(|name| format!("{name} fails too")).collect();
        words.extend(base.difference(&there).map(|name| format!("{name} does not fail")));
        words.sort_unstable();
        if !words.is_empty() {
            impact.stages.push((view.text(stage).to_owned(), words));
        }
    }
    impact
}

/// How something comes to be affected: by what, through which need, and whether only later than building.
#[derive(Clone, Copy)]
struct Cause {
    /// The node that failed before it; `None`: a setting that is gone.
    of: Option<Node>,
    need: Option<NeedIndex>,
    later: bool,
}

/// Everything that falls with what is gone.
struct Fallen<'v, 'a> {
    view: &'v View<'a>,
    gone: HashSet<Node>,
    failed: HashMap<Node, Cause>,
    loses: HashMap<Node, Cause>,
    /// Groups (a tag, all that offer a contract) whose collectors are known.
    lessened: HashSet<Node>,
    replaced: Vec<(Node, Cause, ServiceIndex)>,
    /// What fails as things are; worked out when something is to take over.
    broken: OnceCell<HashSet<Node>>,
}

impl<'v, 'a> Fallen<'v, 'a> {
    fn new(view: &'v View<'a>, subjects: &[Subject]) -> Self {
        let (settings, things): (Vec<Subject>, Vec<Subject>) =
            subjects.iter().partition(|subject| subject.kind == Kind::Setting);
        let gone: HashSet<Node> = things.into_iter().flat_map(|subject| gone(view, subject)).collect();
        let (failed, loses) = (HashMap::default(), HashMap::default());
        let (lessened, replaced, broken) = (HashSet::default(), Vec::new(), OnceCell::new());
        let mut fallen = Self { view, gone, failed, loses, lessened, replaced, broken };
        fallen.fall(&settings.into_iter().map(|setting| setting.name).collect());
        fallen
    }

    /// Searches from what is gone to all that needs it, and on from what was to take over and falls itself.
    fn fall(&mut self, settings: &HashSet<Name>) {
        let mut waiting: Vec<Node> = self.gone.iter().copied().collect();
        waiting.sort_unstable();
        let mut postponed = Vec::new();
        for (holder, cause) in holders(self.view, settings) {
            self.strike(holder, cause, &mut waiting, &mut postponed);
        }
        while !waiting.is_empty() || !postponed.is_empty() {
            self.go_on(&mut waiting, &mut postponed);
            for (holder, cause, other) in std::mem::take(&mut self.replaced) {
                let other_node = Graph::service(other);
                match self.failed.get(&other_node) {
                    Some(fallen) if !self.failed.contains_key(&holder) => {
                        let later = cause.later || fallen.later;
                        self.failed.insert(holder, Cause { of: Some(other_node), later, ..cause });
                        waiting.push(holder);
                    }
                    _ => self.replaced.push((holder, cause, other)),
                }
            }
        }
        self.loses.retain(|node, _| !self.failed.contains_key(node));
        self.replaced.retain(|(node, ..)| !self.failed.contains_key(node));
    }

    /// Goes on from what waits: first to what then cannot be built, then to what fails later.
    fn go_on(&mut self, waiting: &mut Vec<Node>, postponed: &mut Vec<(Node, Cause)>) {
        loop {
            while let Some(node) = waiting.pop() {
                let later = self.failed.get(&node).is_some_and(|cause| cause.later);
                for &edge in self.view.graph.needed_by(node) {
                    let is_later = edge.need_in(self.view.wiring).is_some_and(|need| !need.is_for_building());
                    let cause = Cause { of: Some(node), need: edge.need(), later: later || is_later };
                    match self.view.graph.what(edge.node) {
                        // A question is settled by nothing, gone or not; what collects goes on with one fewer.
                        What::Question(_) => {}
                        What::Tag(_) | What::All(_) => self.lessen(edge.node, cause),
                        _ if later => self.fail(edge.node, cause, waiting),
                        _ => self.strike(edge.node, cause, waiting, postponed),
                    }
                }
            }
            if postponed.is_empty() {
                break;
            }
            for (holder, cause) in std::mem::take(postponed) {
                self.fail(holder, cause, waiting);
            }
        }
    }

    /// Lets a holder fail, now or later, unless its need may be absent or is met by something else.
    fn strike(
        &mut self,
        holder: Node,
        cause: Cause,
        waiting: &mut Vec<Node>,
        postponed: &mut Vec<(Node, Cause)>,
    ) {
        if cause.later { postponed.push((holder, cause)) } else { self.fail(holder, cause, waiting) }
    }

    fn fail(&mut self, holder: Node, cause: Cause, waiting: &mut Vec<Node>) {
        if self.gone.contains(&holder) || self.failed.contains_key(&holder) {
            return;
        }
        let need = cause.need.map(|need| &self.view.wiring.facts.needs[need.index()]);
        // What is there and cannot be built is still what is given to who needs it.
        let is_gone = cause.of.is_some_and(|of| self.gone.contains(&of));
        if need.is_some_and(|need| need.optional) {
            self.loses.insert(holder, cause);
            return;
        }
        match need.filter(|_| is_gone).and_then(|need| self.substitute(need)) {
            Some(other) if !self.is_broken(other) => self.replaced.push((holder, cause, other)),
            other => {
                let of = other.map(Graph::service).or(cause.of);
                self.failed.insert(holder, Cause { of, ..cause });
                waiting.push(holder);
            }
        }
    }

    /// Whether a service cannot be built as things are, with nothing gone: then it takes nothing over.
    fn is_broken(&self, service: ServiceIndex) -> bool {
        self.broken.get_or_init(|| broken(self.view)).contains(&Graph::service(service))
    }

    /// Those who collect a tag, or all that offer a contract, go on with one fewer.
    fn lessen(&mut self, group: Node, cause: Cause) {
        // Whoever of the group goes first is the one that is named.
        if !self.lessened.insert(group) {
            return;
        }
        for collector in self.view.graph.needed_by(group) {
            if !self.gone.contains(&collector.node) {
                self.loses.entry(collector.node).or_insert(Cause { need: None, ..cause });
            }
        }
    }

    /// What would meet a need on a contract if what is gone did not.
    fn substitute(&self, need: &Need) -> Option<ServiceIndex> {
        let Target::Contract(contract) = need.target else { return None };
        let view = self.view;
        let key = need.key.map(|key| key.name);
        let stays = |service: &ServiceIndex| {
            !self.gone.contains(&Graph::service(*service))
                && (key.is_none() || view.wiring.service(*service).key.map(|key| key.name) == key)
        };
        let candidates = view.resolution.candidates(view.wiring, contract);
        let left: Vec<ServiceIndex> = candidates.into_iter().filter(stays).collect();
        let mut defaults = left.iter().filter(|&&service| view.wiring.service(service).is_default);
        match (left.as_slice(), defaults.next(), defaults.next()) {
            (&[only], ..) => Some(only),
            (_, Some(&default), None) => Some(default),
            _ => None,
        }
    }

    fn names(&self) -> HashSet<String> {
        self.failed.keys().map(|&node| format!("{} {}", self.view.kind(node), self.view.name(node))).collect()
    }

    fn told(&self) -> Impact {
        let view = self.view;
        let mut impact = Impact::default();
        let mut modules: HashMap<&str, usize> = HashMap::default();
        for (node, cause) in by_name(view, self.failed.iter().map(|(&node, &cause)| (node, cause))) {
            *modules.entry(view.module_of(node).unwrap_or("no module")).or_default() += 1;
            let list = match view.graph.what(node) {
                What::Entry(_) => &mut impact.entries,
                What::Provider(_) => &mut impact.start_up,
                _ => &mut impact.services,
            };
            list.push(self.affected(node, cause, self.how(cause)));
        }
        for (node, cause) in by_name(view, self.loses.iter().map(|(&node, &cause)| (node, cause))) {
            let lost = cause.of.map_or_else(|| "a setting".to_owned(), |of| view.name(of));
            let how = match cause.need {
                Some(_) => format!("goes on without {lost}, which is optional"),
                None => format!("collects one fewer: {lost}"),
            };
            impact.loses.push(self.affected(node, cause, how));
        }
        for (node, (cause, other)) in
            by_name(view, self.replaced.iter().map(|&(node, cause, other)| (node, (cause, other))))
        {
            impact.replaced.push(self.affected(node, cause, format!("would get {}", view.wiring.id(other))));
        }
        impact.modules = modules.into_iter().map(|(module, count)| (module.to_owned(), count)).collect();
        impact.modules.sort_by(|one, other| other.1.cmp(&one.1).then_with(|| one.0.cmp(&other.0)));
        impact
    }

    fn how(&self, cause: Cause) -> String {
        let need = cause.need.map(|need| &self.view.wiring.facts.needs[need.index()]);
        let of = match (cause.of, need) {
            (Some(of), _) => self.view.name(of),
            (None, Some(need)) => self.view.target(need),
            (None, None) => String::new(),
        };
        let manner = need.map(View::manner).filter(|manner| !manner.is_empty());
        let manner = manner.map_or_else(String::new, |manner| format!(" ({manner})"));
        let when = if cause.later { ", so it fails at first use" } else { "" };
        format!("needs {of}{manner}{when}")
    }

    fn affected(&self, node: Node, cause: Cause, how: String) -> Affected {
        let need = cause.need.map(|need| &self.view.wiring.facts.needs[need.index()]);
        let place = need.map(|need| Place::new(need.source, need.span, "needed here"));
        Affected {
            name: self.view.name(node),
            module: self.view.module_of(node).unwrap_or_default().to_owned(),
            how,
            place: place.or_else(|| self.view.place(node)),
        }
    }
}

fn by_name<T: Copy>(view: &View<'_>, nodes: impl Iterator<Item = (Node, T)>) -> Vec<(Node, T)> {
    let mut nodes: Vec<(Node, T)> = nodes.collect();
    nodes.sort_by_cached_key(|(node, _)| (view.name(*node), *node));
    nodes
}

/// Who needs one of some settings.
fn holders(view: &View<'_>, settings: &HashSet<Name>) -> Vec<(Node, Cause)> {
    if settings.is_empty() {
        return Vec::new();
    }
    let facts = &view.wiring.facts;
    let needs = |node: Node| needs_of(view.wiring, view.graph.what(node)).into_iter().flatten();
    let all = (0..view.graph.len() as u32).flat_map(|node| needs(node).map(move |need| (node, need)));
    let of_setting = all.filter(|&(_, need)| match facts.needs[need].target {
        Target::Setting(setting) => settings.contains(&setting),
        _ => false,
    });
    let cause = |(node, need): (Node, usize)| {
        let later = !facts.needs[need].is_for_building();
        (node, Cause { of: None, need: Some(NeedIndex(need as u32)), later })
    };
    of_setting.map(cause).collect()
}

/// Nodes that cannot be built or used as things are: they lack something, or need what does.
fn broken(view: &View<'_>) -> HashSet<Node> {
    let needs = &view.wiring.facts.needs;
    let lacks = |&number: &usize| {
        let met = view.resolution.met(NeedIndex(number as u32));
        !needs[number].optional && matches!(met, Met::Missing | Met::MissingKey | Met::Ambiguous(_))
    };
    let lacks_any = |node: &Node| {
        needs_of(view.wiring, view.graph.what(*node)).into_iter().flatten().any(|number| lacks(&number))
    };
    let mut waiting: Vec<Node> = (0..view.graph.len() as u32).filter(lacks_any).collect();
    let mut broken: HashSet<Node> = HashSet::default();
    while let Some(node) = waiting.pop() {
        if broken.insert(node) {
            // Without a need it is a wrapper that has what it wraps; a tag goes on with one carrier fewer.
            let falls = |edge: &&Edge| match edge.need_in(view.wiring) {
                Some(need) => !need.optional,
                None => matches!(view.graph.what(edge.node), What::Service(_)),
            };
            waiting.extend(view.graph.needed_by(node).iter().filter(falls).map(|edge| edge.node));
        }
    }
    broken
}

/// The nodes that go with a subject.
fn gone(view: &View<'_>, subject: Subject) -> Vec<Node> {
    if subject.kind != Kind::Contract {
        return why::nodes(view, subject);
    }
    // Without a contract, whoever offers it is still there, but nothing needs it any more through it: what it
    // gives today is what would be missed.
    match view.resolution.ask(view.wiring, subject.name, None) {
        Met::Service(service) => vec![Graph::service(service)],
        _ => why::nodes(view, subject),
    }
}
