//! What follows from what definitions say otherwise: who wins a contract, what a setting is, who is collected and in which
//! order, how long things live, in which order providers run, and what entries come to build.

use super::numbers::{Numbers, Side};
use super::pairs::Pairs;
use crate::answers::View;
use crate::answers::terms::Thing;
use crate::facts::Target;
use crate::graph::Node;
use crate::name::Name;
use crate::resolve::Met;
use crate::wiring::needs_of;
use crate::word::words;
use foldhash::{HashMap, HashSet};
use rayon::prelude::*;
use std::collections::{BTreeMap, BTreeSet};

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

/// What something comes to, while it is compared; names as numbers or as texts.
#[derive(Clone, PartialEq, Eq, Debug)]
pub(super) enum Came<'a, N = &'a str> {
    Nothing,
    Name(N),
    Unsettled(usize),
    Names(Vec<N>),
    Text(&'a str),
}

pub(super) type Subject<'a> = (EffectKind, &'a str, Option<&'a str>);
/// The same with numbers of names.
type Numbered = (EffectKind, u32, Option<u32>);
type All<'a> = HashMap<Numbered, Came<'a, u32>>;

/// What something came to and comes to.
pub(super) type Turned<'a> = (Subject<'a>, Came<'a>, Came<'a>);

/// A stage (`None`: with none chosen), and what something came to and comes to there.
type Case<'a> = (Option<&'a str>, Came<'a>, Came<'a>);

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

impl<'a> Came<'a, u32> {
    fn by_text(self, numbers: &Numbers<'a>) -> Came<'a> {
        match self {
            Self::Nothing => Came::Nothing,
            Self::Name(name) => Came::Name(numbers.text(name)),
            Self::Unsettled(count) => Came::Unsettled(count),
            Self::Names(names) => Came::Names(names.into_iter().map(|name| numbers.text(name)).collect()),
            Self::Text(text) => Came::Text(text),
        }
    }
}

/// All that comes to something else in a view than in an older one, in every stage if none is chosen.
pub(super) fn effects<'a>(old: &View<'a>, new: &View<'a>) -> Vec<Effect> {
    let cases = in_all_stages(old, new);
    let count = cases.len();
    let mut found: BTreeMap<Subject<'_>, Vec<Case<'_>>> = BTreeMap::new();
    for (stage, turned) in cases {
        for (subject, was, is) in turned {
            found.entry(subject).or_default().push((stage, was, is));
        }
    }
    // Who asks for what is gone over only if something is another.
    let askers = if found.is_empty() { Askers::default() } else { Askers::new(new) };
    let mut effects = Vec::new();
    for (subject, mut cases) in found {
        // One effect for all stages in which it is the same.
        while let Some((_, was, is)) = cases.first().cloned() {
            let (same, other): (Vec<_>, Vec<_>) =
                cases.into_iter().partition(|case| (&case.1, &case.2) == (&was, &is));
            cases = other;
            let everywhere = same.len() == count;
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

/// What comes to something else with no stage chosen, and then in each stage of both. In a stage that only one of both knows the
/// other is as it is with none chosen.
fn in_all_stages<'a>(old: &View<'a>, new: &View<'a>) -> Vec<(Option<&'a str>, Vec<Turned<'a>>)> {
    let (before, after) = rayon::join(|| old.staging(), || new.staging());
    let is_one = old.stage().is_some() || new.stage().is_some();
    let known = before.stages().iter().map(|&stage| old.text(stage));
    let known = known.chain(after.stages().iter().map(|&stage| new.text(stage)));
    let stages: BTreeSet<&str> = known.filter(|_| !is_one).collect();
    let numbers = Numbers::new(old.wiring, new.wiring);
    let pairs = Pairs::new(old, new, &numbers);
    let turned_in = |stage: Option<&'a str>| {
        let (was, is) = match stage {
            Some(stage) => rayon::join(|| before.named(stage), || after.named(stage)),
            None => (None, None),
        };
        (stage, turned(was.as_ref().unwrap_or(old), is.as_ref().unwrap_or(new), &pairs))
    };
    let cases: Vec<Option<&str>> = std::iter::once(None).chain(stages.into_iter().map(Some)).collect();
    cases.into_par_iter().map(turned_in).collect()
}

/// What comes to something else in a view.
fn turned<'a>(old: &View<'a>, new: &View<'a>, pairs: &Pairs<'_, 'a>) -> Vec<Turned<'a>> {
    let numbers = pairs.names;
    let all = |view, side| all_of(view, |name| numbers.of(side, name));
    let (mut turned, more) = rayon::join(
        || {
            let (before, after) = rayon::join(|| all(old, Side::Old), || all(new, Side::New));
            differing(before, after, numbers)
        },
        || pairs.turned(old, new),
    );
    turned.extend(more);
    turned
}

/// Subjects that come to something else, in no order.
fn differing<'a>(mut was: All<'a>, is: All<'a>, numbers: &Numbers<'a>) -> Vec<Turned<'a>> {
    let mut turned = Vec::new();
    let mut add = |(kind, name, key): Numbered, was: Came<'a, u32>, is: Came<'a, u32>| {
        if was != is {
            let subject = (kind, numbers.text(name), key.map(|key| numbers.text(key)));
            turned.push((subject, was.by_text(numbers), is.by_text(numbers)));
        }
    };
    for (subject, is) in is {
        add(subject, was.remove(&subject).unwrap_or(Came::Nothing), is);
    }
    for (subject, was) in was {
        add(subject, was, Came::Nothing);
    }
    turned
}

/// What everything comes to in a view.
fn all_of<'a>(view: &View<'a>, number: impl Fn(Name) -> u32) -> All<'a> {
    let mut all = All::default();
    winners(view, &number, &mut all);
    settings(view, &number, &mut all);
    for &tag in view.graph.tags() {
        let collected = view.resolution.collected(view.wiring, tag);
        let names = collected.into_iter().map(|(service, _)| number(view.wiring.service(service).id.name));
        all.insert((EffectKind::Carriers, number(tag), None), Came::Names(names.collect()));
    }
    let rosters = view.wiring.rosters(view.resolution.stage);
    let listed = rosters.flat_map(|roster| roster.providers.of(&view.wiring.facts.parts));
    let listed: Vec<u32> = listed.map(|provider| number(provider.name)).collect();
    if !listed.is_empty() {
        let nothing = number(view.wiring.names.nothing());
        all.insert((EffectKind::Providers, nothing, None), Came::Names(listed));
    }
    all
}

/// Who is given for each contract, and each key of one, that is asked for or offered.
fn winners(view: &View<'_>, number: impl Fn(Name) -> u32, all: &mut All<'_>) {
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
            Met::Service(service) => Came::Name(number(view.wiring.service(service).id.name)),
            Met::Ambiguous(_) => Came::Unsettled(view.resolution.candidates(view.wiring, contract).len()),
            _ => Came::Nothing,
        };
        all.insert((EffectKind::Winner, number(contract), key.map(&number)), came);
    }
}

/// The value that each setting has.
fn settings<'a>(view: &View<'a>, number: impl Fn(Name) -> u32, all: &mut All<'a>) {
    let facts = &view.wiring.facts;
    for setting in &facts.settings {
        let staged = setting.stages.of(&facts.parts).iter();
        let own =
            staged.filter(|value| Some(value.stage.name) == view.resolution.stage).map(|value| value.value);
        let Some(value) = own.last().or(setting.value) else { continue };
        let text = crate::source::cut(&view.wiring.sources[setting.source.index()].text, value.span);
        // The first declaration with a value is the one that counts.
        all.entry((EffectKind::Setting, number(setting.setting.name), None))
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
