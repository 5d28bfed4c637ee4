//! What follows from what definitions say otherwise: who wins a contract, what a setting is, who is collected and in which
//! order, how long things live, in which order providers run, and what entries come to build.

use crate::answers::View;
use crate::answers::terms::Thing;
use crate::facts::Target;
use crate::graph::{Node, What};
use crate::name::Name;
use crate::resolve::Met;
use crate::wiring::{Wiring, needs_of};
use crate::word::words;
use foldhash::{HashMap, HashSet};
use std::collections::{BTreeMap, BTreeSet};
use std::hash::BuildHasher;

words! {
    /// What an effect is about.
    EffectKind {
        /// Who is given to who needs a contract, or a key of it.
        Winner "winner"
        /// The value of a setting.
        Setting "setting"
        /// Who carries a tag, in the order in which they are collected.
        Carriers "carriers"
        /// How long a service lives.
        Lifetime "lifetime"
        /// Providers in the order of the roster.
        Providers "providers"
        /// What an entry comes to use.
        Uses "uses"
    }
}

/// What something comes to.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Outcome {
    /// To nothing.
    Nothing,
    /// To a service, or to a word.
    Name(String),
    /// To so many, of which nothing says which is meant.
    Unsettled(usize),
    /// To these, in this order; of what an entry uses those that the other side has not.
    Names(Vec<String>),
    /// To a value, which may be secret.
    Text(String),
}

/// Something that comes to something else than before.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Effect {
    /// What it is about.
    pub kind: EffectKind,
    /// The contract, setting, tag, service or entry; of providers nothing.
    pub subject: String,
    /// The key of a contract.
    pub key: Option<String>,
    /// Whether it is so in every stage, and with none chosen.
    pub everywhere: bool,
    /// In which stages; together with `none_chosen` if that is set.
    pub stages: Vec<String>,
    /// Where no stage is chosen, or in the one that was asked about.
    pub none_chosen: bool,
    /// What it came to.
    pub before: Outcome,
    /// What it comes to.
    pub after: Outcome,
    /// Who asks for it, the first few.
    pub whom: Vec<Thing>,
    /// How many more ask for it.
    pub more: usize,
}

impl Effect {
    /// Whether it is no more than that services are called otherwise: old names with the new ones.
    pub(super) fn follows_from_names(&self, renamed: &HashMap<&str, &str>) -> bool {
        let new =
            |name: &String| renamed.get(name.as_str()).map_or_else(|| name.clone(), |new| (*new).to_owned());
        match (&self.before, &self.after) {
            (Outcome::Name(was), Outcome::Name(is)) => new(was) == *is,
            // Of what an entry uses the order says nothing.
            (Outcome::Names(was), Outcome::Names(is)) if self.kind == EffectKind::Uses => {
                was.iter().map(new).collect::<BTreeSet<String>>() == is.iter().cloned().collect()
            }
            (Outcome::Names(was), Outcome::Names(is)) => was.iter().map(new).eq(is.iter().cloned()),
            _ => false,
        }
    }
}

/// Who is named of those that ask for something.
const NAMED: usize = 5;
/// Entries whose uses are worked out at most.
const ENTRIES: usize = 2_000;

/// What something comes to, while it is compared.
#[derive(Clone, PartialEq, Eq, Debug)]
enum Came<'a> {
    Nothing,
    Name(&'a str),
    Unsettled(usize),
    Names(Vec<&'a str>),
    Text(&'a str),
}

type Subject<'a> = (EffectKind, &'a str, Option<&'a str>);
type All<'a> = HashMap<Subject<'a>, Came<'a>>;

/// A stage (`None`: with none chosen), and what something came to and comes to there.
type Case<'c, 'a> = (Option<&'a str>, &'c Came<'a>, &'c Came<'a>);

impl Came<'_> {
    fn outcome(&self) -> Outcome {
        let owned = |text: &str| text.to_owned();
        match self {
            Self::Nothing => Outcome::Nothing,
            Self::Name(name) => Outcome::Name(owned(name)),
            Self::Unsettled(count) => Outcome::Unsettled(*count),
            Self::Names(names) => Outcome::Names(names.iter().map(|name| owned(name)).collect()),
            Self::Text(text) => Outcome::Text(owned(text)),
        }
    }
}

/// All that comes to something else in a view than in an older one, in every stage if none is chosen.
pub(super) fn effects(old: &View<'_>, new: &View<'_>) -> Vec<Effect> {
    let (mut effects, more) = rayon::join(
        || outcomes(old, new),
        || rayon::join(|| uses(old, new), || lifetimes(old.wiring, new.wiring)),
    );
    effects.extend(more.1);
    effects.extend(more.0);
    effects.sort_by(|one, other| {
        (one.kind, &one.subject, &one.key).cmp(&(other.kind, &other.subject, &other.key))
    });
    effects
}

/// What subjects come to that is something else.
fn outcomes(old: &View<'_>, new: &View<'_>) -> Vec<Effect> {
    let (before, after) = rayon::join(|| all_of(old), || all_of(new));
    let mut found: BTreeMap<Subject<'_>, Vec<Case<'_, '_>>> = BTreeMap::new();
    let (staged_before, staged_after) = rayon::join(|| by_stage(old), || by_stage(new));
    let mut views: Vec<(Option<&str>, &All<'_>, &All<'_>)> = vec![(None, &before, &after)];
    let stages: BTreeSet<&str> = staged_before.keys().chain(staged_after.keys()).copied().collect();
    for &stage in &stages {
        let was = staged_before.get(stage).unwrap_or(&before);
        views.push((Some(stage), was, staged_after.get(stage).unwrap_or(&after)));
    }
    for (stage, was, is) in views {
        for (subject, was, is) in differing(was, is) {
            found.entry(subject).or_default().push((stage, was, is));
        }
    }
    // Who asks for what is gone over only if something is another.
    let askers = if found.is_empty() { Askers::default() } else { Askers::new(new) };
    let mut effects = Vec::new();
    for (subject, mut cases) in found {
        // One effect for all stages in which it is the same.
        while let Some(&(_, was, is)) = cases.first() {
            let (same, other): (Vec<_>, Vec<_>) =
                cases.into_iter().partition(|case| (case.1, case.2) == (was, is));
            cases = other;
            let everywhere = same.len() == stages.len() + 1;
            let stages = same.iter().filter_map(|case| case.0.map(str::to_owned)).collect();
            let none_chosen = same.iter().any(|case| case.0.is_none());
            let (whom, more) = askers.of(new, subject);
            effects.push(Effect {
                kind: subject.0,
                subject: subject.1.to_owned(),
                key: subject.2.map(str::to_owned),
                everywhere,
                stages,
                none_chosen,
                before: was.outcome(),
                after: is.outcome(),
                whom,
                more,
            });
        }
    }
    effects
}

/// Subjects that come to something else, in no order.
fn differing<'c, 'a>(was: &'c All<'a>, is: &'c All<'a>) -> Vec<(Subject<'a>, &'c Came<'a>, &'c Came<'a>)> {
    static NOTHING: Came<'static> = Came::Nothing;
    let changed = is.iter().map(|(subject, is)| (*subject, was.get(subject).unwrap_or(&NOTHING), is));
    let gone = was.iter().filter(|(subject, _)| !is.contains_key(*subject));
    let gone = gone.map(|(subject, was)| (*subject, was, &NOTHING));
    changed.chain(gone).filter(|(_, was, is)| was != is).collect()
}

fn by_stage<'a>(view: &View<'a>) -> BTreeMap<&'a str, All<'a>> {
    view.by_stage(all_of).into_iter().map(|(stage, all)| (view.text(stage), all)).collect()
}

/// What everything comes to in a view.
fn all_of<'a>(view: &View<'a>) -> All<'a> {
    let mut all = All::default();
    winners(view, &mut all);
    settings(view, &mut all);
    for &tag in view.graph.tags() {
        let collected = view.resolution.collected(view.wiring, tag);
        let names = collected.into_iter().map(|(service, _)| view.wiring.id(service)).collect();
        all.insert((EffectKind::Carriers, view.text(tag), None), Came::Names(names));
    }
    let rosters = view.wiring.rosters(view.resolution.stage);
    let listed = rosters.flat_map(|roster| roster.providers.of(&view.wiring.facts.parts));
    let listed: Vec<&str> = listed.map(|provider| view.text(provider.name)).collect();
    if !listed.is_empty() {
        all.insert((EffectKind::Providers, "", None), Came::Names(listed));
    }
    all
}

/// Who is given for each contract, and each key of one, that is asked for or offered.
fn winners<'a>(view: &View<'a>, all: &mut All<'a>) {
    let facts = &view.wiring.facts;
    let mut asked: HashSet<(Name, Option<Name>)> = HashSet::default();
    for need in &facts.parts.needs {
        if let Target::Contract(contract) = need.target {
            asked.insert((contract, need.key.map(|key| key.name)));
        }
    }
    for service in &facts.services {
        for offer in service.offers.of(&facts.parts) {
            asked.insert((offer.name, service.key.map(|key| key.name)));
        }
    }
    for (contract, key) in asked {
        let came = match view.resolution.ask(view.wiring, contract, key) {
            Met::Service(service) => Came::Name(view.wiring.id(service)),
            Met::Ambiguous(_) => Came::Unsettled(view.resolution.candidates(view.wiring, contract).len()),
            _ => Came::Nothing,
        };
        all.insert((EffectKind::Winner, view.text(contract), key.map(|key| view.text(key))), came);
    }
}

/// The value that each setting has.
fn settings<'a>(view: &View<'a>, all: &mut All<'a>) {
    let facts = &view.wiring.facts;
    for setting in &facts.settings {
        let staged = setting.stages.of(&facts.parts).iter();
        let own =
            staged.filter(|value| Some(value.stage.name) == view.resolution.stage).map(|value| value.value);
        let Some(value) = own.last().or(setting.value) else { continue };
        let text = crate::source::cut(&view.wiring.sources[setting.source.index()].text, value.span);
        // The first declaration with a value is the one that counts.
        all.entry((EffectKind::Setting, view.text(setting.setting.name), None))
            .or_insert(Came::Text(text.trim()));
    }
}

/// Who asks for what, by name.
#[derive(Default)]
struct Askers<'a> {
    nodes: HashMap<(EffectKind, &'a str, Option<&'a str>), Vec<Node>>,
}

impl<'a> Askers<'a> {
    fn new(view: &View<'a>) -> Self {
        let mut nodes: HashMap<_, Vec<Node>> = HashMap::default();
        for node in view.graph.nodes() {
            for number in needs_of(view.wiring, node).into_iter().flatten() {
                let need = &view.wiring.facts.parts.needs[number];
                let subject = match need.target {
                    Target::Contract(contract) => {
                        let key = need.key.map(|key| view.text(key.name));
                        (EffectKind::Winner, view.text(contract), key)
                    }
                    Target::Tag(tag) => (EffectKind::Carriers, view.text(tag), None),
                    Target::Setting(setting) => (EffectKind::Setting, view.text(setting), None),
                    _ => continue,
                };
                nodes.entry(subject).or_default().push(node);
            }
        }
        Self { nodes }
    }

    fn of(&self, view: &View<'_>, subject: Subject<'_>) -> (Vec<Thing>, usize) {
        let nodes = self.nodes.get(&subject).map_or(&[][..], Vec::as_slice);
        let mut nodes = nodes.to_vec();
        nodes.dedup();
        let things: BTreeSet<Thing> = nodes.iter().map(|&node| view.thing(node)).collect();
        let more = things.len().saturating_sub(NAMED);
        (things.into_iter().take(NAMED).collect(), more)
    }
}

/// Services that are on both sides and live otherwise, by whatever it is said.
fn lifetimes(old: &Wiring, new: &Wiring) -> Vec<Effect> {
    let before = lives(old);
    let changed = lives(new).into_iter().filter_map(|(id, is)| {
        let was = *before.get(id)?;
        let outcome = |word: &str| match word {
            "" => Outcome::Nothing,
            word => Outcome::Name(word.to_owned()),
        };
        (was != is).then(|| Effect {
            kind: EffectKind::Lifetime,
            subject: id.to_owned(),
            key: None,
            everywhere: true,
            stages: Vec::new(),
            none_chosen: true,
            before: outcome(was),
            after: outcome(is),
            whom: Vec::new(),
            more: 0,
        })
    });
    changed.collect()
}

/// How long each service that has one definition lives.
fn lives(wiring: &Wiring) -> HashMap<&str, &str> {
    let default = wiring.policy.lifetimes.default.as_deref();
    let services = wiring.facts.services.iter().filter(|service| service.may_be_built());
    let only = services.filter(|service| !wiring.is_defined_again(service.id.name));
    let lives = only.map(|service| {
        let own = service.lifetime.map(|lifetime| wiring.text(lifetime.name));
        (wiring.text(service.id.name), own.or(default).unwrap_or_default())
    });
    lives.collect()
}

/// What a node is called, whatever its number.
type Called<'a> = (u8, &'a str, Option<&'a str>);

fn called<'a>(view: &View<'a>, node: Node) -> Called<'a> {
    let (_, name, key) = view.sort_key(node);
    let kind = match view.graph.what(node) {
        What::Service(_) => 0,
        What::Entry(_) => 1,
        What::Provider(_) => 2,
        What::Tag(_) => 3,
        What::All(_) => 4,
        What::Question(_) => 5,
    };
    (kind, name, key)
}

/// Entries that come to use other services than before. Only those are looked at from which something leads to a node
/// whose edges are others.
fn uses(old: &View<'_>, new: &View<'_>) -> Vec<Effect> {
    let (before, after) = rayon::join(|| edges_by_name(old), || edges_by_name(new));
    let touched =
        |here: &HashMap<Called<'_>, (Node, u64)>, there: &HashMap<Called<'_>, (Node, u64)>| -> Vec<Node> {
            let is_other = |(called, (_, edges)): &(&Called<'_>, &(Node, u64))| {
                there.get(*called).is_none_or(|(_, others)| others != edges)
            };
            here.iter().filter(is_other).map(|(_, (node, _))| *node).collect()
        };
    let mut affected: BTreeSet<&str> = entries_above(old, touched(&before, &after));
    affected.extend(entries_above(new, touched(&after, &before)));
    let used = |view: &View<'_>, nodes: &HashMap<Called<'_>, (Node, u64)>, entry: &str| -> BTreeSet<String> {
        let Some(&(node, _)) = nodes.get(&(1, entry, None)) else { return BTreeSet::new() };
        reached(view, node).into_iter().map(str::to_owned).collect()
    };
    let effect = |entry: &str| {
        // One that is new or gone is told by its definition.
        let is_on_both = [&before, &after].iter().all(|nodes| nodes.contains_key(&(1, entry, None)));
        let (was, is) = (used(old, &before, entry), used(new, &after, entry));
        let only = |one: &BTreeSet<String>, other: &BTreeSet<String>| {
            Outcome::Names(one.difference(other).cloned().collect())
        };
        (is_on_both && was != is).then(|| Effect {
            kind: EffectKind::Uses,
            subject: entry.to_owned(),
            key: None,
            everywhere: true,
            stages: Vec::new(),
            none_chosen: true,
            before: only(&was, &is),
            after: only(&is, &was),
            whom: Vec::new(),
            more: 0,
        })
    };
    affected.into_iter().take(ENTRIES).filter_map(effect).collect()
}

/// Every node by what it is called, with a digest of what its edges lead to.
fn edges_by_name<'a>(view: &View<'a>) -> HashMap<Called<'a>, (Node, u64)> {
    let state = foldhash::fast::FixedState::default();
    let names: Vec<u64> = view.graph.nodes().map(|node| state.hash_one(called(view, node))).collect();
    let digest = |node: Node| {
        let mut ends: Vec<u64> = view.graph.needs(node).iter().map(|edge| names[edge.node.index()]).collect();
        ends.sort_unstable();
        ends.dedup();
        state.hash_one(ends)
    };
    let is_there = |node: &Node| match view.graph.what(*node) {
        What::Service(service) => view.resolution.ids.is_built(service),
        _ => true,
    };
    let nodes = view.graph.nodes().filter(is_there);
    nodes.map(|node| (called(view, node), (node, digest(node)))).collect()
}

/// The entries that come to use some nodes.
fn entries_above<'a>(view: &View<'a>, nodes: Vec<Node>) -> BTreeSet<&'a str> {
    let mut seen: HashSet<Node> = nodes.iter().copied().collect();
    let mut waiting = nodes;
    let mut entries = BTreeSet::new();
    while let Some(node) = waiting.pop() {
        if let What::Entry(_) = view.graph.what(node) {
            entries.insert(view.sort_key(node).1);
        }
        for edge in view.graph.needed_by(node) {
            if seen.insert(edge.node) {
                waiting.push(edge.node);
            }
        }
    }
    entries
}

/// The services that a node comes to use.
fn reached<'a>(view: &View<'a>, from: Node) -> BTreeSet<&'a str> {
    let mut seen: HashSet<Node> = HashSet::from_iter([from]);
    let mut waiting = vec![from];
    let mut services = BTreeSet::new();
    while let Some(node) = waiting.pop() {
        if let What::Service(_) = view.graph.what(node) {
            services.insert(view.sort_key(node).1);
        }
        // A question says who may be meant, not who is used.
        if view.graph.is_question(node) {
            continue;
        }
        for edge in view.graph.needs(node) {
            if seen.insert(edge.node) {
                waiting.push(edge.node);
            }
        }
    }
    services
}
