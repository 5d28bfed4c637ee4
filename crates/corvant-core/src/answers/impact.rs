//! What stops working if something goes.

use super::failing::{Cause, failing};
use super::subject::built_from;
use super::terms::{Aim, NeedManner, Thing};
use super::{Kind, Subject, View};
use crate::facts::{Contract, MeantFor, Target};
use crate::graph::{Graph, Node, What};
use crate::name::Name;
use crate::resolve::Met;
use crate::source::Place;
use crate::wiring::{NeedIndex, Removal, Wiring, needs_of};
use foldhash::{HashMap, HashSet};

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
    /// What needs what is gone and fails as it is, for another reason.
    pub failing_already: Vec<Affected>,
    /// What a standard hands out at run time to whoever asks, and what is left of it.
    pub handed_out: Vec<HandedOut>,
    /// Modules with the number of things in them that fail.
    pub modules: Vec<(String, usize)>,
    /// Stages in which it is otherwise.
    pub stages: Vec<StageImpact>,
}

/// What differs in a stage from what happens with none chosen.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct StageImpact {
    /// The stage.
    pub stage: String,
    /// What fails there only.
    pub fails_too: Vec<Thing>,
    /// What does not fail there.
    pub does_not_fail: Vec<Thing>,
}

/// Something that is handed out at run time and of which there would be less.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub struct HandedOut {
    /// The contract that is asked for.
    pub contract: String,
    /// The key, where one with that key is asked for.
    pub key: Option<String>,
    /// How many others are left that offer it, under that key if there is one.
    pub left: usize,
}

/// One thing that is affected.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Affected {
    /// What it is called.
    pub name: String,
    /// The module that defines it.
    pub module: String,
    /// How it comes to be affected.
    pub how: Effect,
    /// The need through which it is.
    pub place: Option<Place>,
}

/// How something comes to be affected.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Effect {
    /// It needs something that is gone or fails.
    Needs {
        /// That.
        what: Lost,
        /// How the need is met.
        manner: NeedManner,
        /// Whether it is built all the same, and fails at first use.
        later: bool,
    },
    /// It names something that is not there any more.
    NamesWhatIsGone,
    /// It needs what is gone, and fails as it is.
    FailsAlready,
    /// It would get another service.
    GetsService(String),
    /// It would get what the host platform brings.
    GetsSupplied,
    /// It goes on without something that is optional.
    GoesWithout(Lost),
    /// It collects fewer: without these.
    CollectsFewer(Vec<Thing>),
}

/// What is needed and gone: a thing, or what the need is aimed at where that was no single thing.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Lost {
    /// A node of the graph.
    Thing(Thing),
    /// The aim of the need.
    Aim(Aim),
}

/// What stops working if all of `subjects` were not there: the wiring without them, held against the wiring as it
/// is.
pub fn impact(view: &View<'_>, subjects: &[Subject]) -> Impact {
    let removal = removal(view.wiring, subjects);
    let without = view.wiring.without(&removal);
    let after = View::new(&without, view.resolution.stage);
    let change = Removed::new(view, &after, &removal);
    let mut impact = change.told();
    impact.gone = subjects.iter().map(|subject| view.text(subject.name).to_owned()).collect();
    impact.handed_out = handed_out(view, &removal);
    let base = change.things();
    let before = view.by_stage(|view| failing(view).into_keys().collect::<HashSet<Node>>());
    let after = after.by_stage(|after| failing(after).into_keys().collect::<HashSet<Node>>());
    for ((stage, before), (_, after)) in before.into_iter().zip(after) {
        let there = things(view, &removal, after.difference(&before).copied());
        let sorted = |one: &HashSet<Thing>, other: &HashSet<Thing>| {
            let mut things: Vec<Thing> = one.difference(other).cloned().collect();
            things.sort_unstable();
            things
        };
        let (fails_too, does_not_fail) = (sorted(&there, &base), sorted(&base, &there));
        if !fails_too.is_empty() || !does_not_fail.is_empty() {
            impact.stages.push(StageImpact { stage: view.owned(stage), fails_too, does_not_fail });
        }
    }
    impact
}

/// What is handed out at run time of what goes, once for each contract and key. Of a contract that is meant for all that
/// offer it, who asks gets the others still, whatever their keys.
fn handed_out(view: &View<'_>, removal: &Removal) -> Vec<HandedOut> {
    let (wiring, facts) = (view.wiring, &view.wiring.facts);
    let is_for_all =
        |contract: &&Contract| contract.meant_for.is_some_and(|(meant, _)| meant == MeantFor::All);
    let for_all = facts.contracts.iter().filter(is_for_all);
    let for_all: HashSet<Name> = for_all.map(|contract| contract.contract.name).collect();
    let installed = wiring.services().filter(|(_, service)| service.of_standard.installed.is_some());
    let (mut gone, mut there) = (HashSet::default(), Vec::new());
    for (index, service) in installed {
        let is_removed = wiring.is_removed(removal, index);
        for offer in service.offers.of(&facts.parts).iter().map(|offer| offer.name) {
            let key = service.key.map(|key| key.name).filter(|_| !for_all.contains(&offer));
            if removal.contracts.contains(&offer) {
                gone.insert((offer, None));
            } else if is_removed {
                gone.insert((offer, key));
            } else {
                there.push((offer, key));
            }
        }
    }
    let mut left: HashMap<(Name, Option<Name>), usize> = gone.into_iter().map(|asked| (asked, 0)).collect();
    for asked in there {
        left.entry(asked).and_modify(|left| *left += 1);
    }
    let told = |((contract, key), left): ((Name, Option<Name>), usize)| {
        let (contract, key) = (view.owned(contract), key.map(|key: Name| view.owned(key)));
        HandedOut { contract, key, left }
    };
    let mut handed_out: Vec<HandedOut> = left.into_iter().map(told).collect();
    handed_out.sort_unstable();
    handed_out
}

fn removal(wiring: &Wiring, subjects: &[Subject]) -> Removal {
    let mut removal = Removal::default();
    for subject in subjects {
        let kind = match subject.kind {
            Kind::Service => &mut removal.services,
            Kind::Contract => &mut removal.contracts,
            Kind::Tag => &mut removal.tags,
            Kind::Setting => &mut removal.settings,
            Kind::Provider => &mut removal.providers,
            Kind::Entry => &mut removal.entries,
            Kind::Module => &mut removal.modules,
            // Without a type there is nothing to build its services from.
            Kind::Type => {
                let built = built_from(wiring, subject.name);
                removal.services.extend(built.map(|service| wiring.service(service).id.name));
                continue;
            }
        };
        kind.insert(subject.name);
    }
    removal
}

/// Whether a node is taken out itself.
fn is_gone(view: &View<'_>, removal: &Removal, node: Node) -> bool {
    let facts = &view.wiring.facts;
    let (source, id, ids) = match view.graph.what(node) {
        What::Service(service) => return view.wiring.is_removed(removal, service),
        What::Entry(entry) => {
            let entry = &facts.entries[entry.index()];
            (entry.source, entry.id.name, &removal.entries)
        }
        What::Provider(provider) => {
            let provider = &facts.providers[provider.index()];
            (provider.source, provider.id.name, &removal.providers)
        }
        What::Tag(_) | What::All(_) | What::Question(_) => return false,
    };
    let module = view.wiring.module_of(source);
    let module = module.map(|module| view.wiring.modules[module.index()].module.name);
    ids.contains(&id) || module.is_some_and(|module| removal.modules.contains(&module))
}

/// Whether a node has a definition: those alone have the same number in both wirings.
fn is_defined(view: &View<'_>, node: Node) -> bool {
    matches!(view.graph.what(node), What::Service(_) | What::Entry(_) | What::Provider(_))
}

fn things(view: &View<'_>, removal: &Removal, nodes: impl Iterator<Item = Node>) -> HashSet<Thing> {
    let nodes = nodes.filter(|&node| node.index() < view.graph.len() && is_defined(view, node));
    let nodes = nodes.filter(|&node| !is_gone(view, removal, node));
    nodes.map(|node| view.thing(node)).collect()
}

/// A wiring before and after something is taken out of it.
struct Removed<'c, 'a, 'b> {
    before: &'c View<'a>,
    after: &'c View<'b>,
    removal: &'c Removal,
    /// What fails after, and does not before.
    failed: HashMap<Node, Cause>,
    failing_already: HashSet<Node>,
}

impl<'c, 'a, 'b> Removed<'c, 'a, 'b> {
    fn new(before: &'c View<'a>, after: &'c View<'b>, removal: &'c Removal) -> Self {
        let failed_before = failing(before);
        let mut failed = failing(after);
        failed.retain(|&node, _| {
            is_defined(after, node) && !failed_before.contains_key(&node) && !is_gone(before, removal, node)
        });
        let failing_already = failed_before.into_keys().collect();
        Self { before, after, removal, failed, failing_already }
    }

    fn things(&self) -> HashSet<Thing> {
        things(self.before, self.removal, self.failed.keys().copied())
    }

    fn told(&self) -> Impact {
        let view = self.before;
        let mut impact = Impact::default();
        let mut modules: HashMap<&str, usize> = HashMap::default();
        for (node, cause) in by_name(view, self.failed.iter().map(|(&node, &cause)| (node, cause))) {
            *modules.entry(view.module_of(node).unwrap_or("no module")).or_default() += 1;
            let list = match view.graph.what(node) {
                What::Entry(_) => &mut impact.entries,
                What::Provider(_) => &mut impact.start_up,
                _ => &mut impact.services,
            };
            let place = cause.need.map(|need| place(self.after, need));
            list.push(self.affected(node, place, self.how(node, cause)));
        }
        let failing = self.dependents().filter(|node| self.failing_already.contains(node));
        impact.failing_already = by_name(view, failing.map(|node| (node, ())))
            .into_iter()
            .map(|(node, ())| self.affected(node, None, Effect::FailsAlready))
            .collect();
        for (node, ()) in by_name(view, self.others().map(|node| (node, ()))) {
            self.goes_on(node, &mut impact);
        }
        impact.modules = modules.into_iter().map(|(module, count)| (module.to_owned(), count)).collect();
        impact.modules.sort_by(|one, other| other.1.cmp(&one.1).then_with(|| one.0.cmp(&other.0)));
        impact
    }

    /// All that comes to need what is gone, as things are.
    fn dependents(&self) -> impl Iterator<Item = Node> + '_ {
        let view = self.before;
        let gone = view.graph.nodes().filter(|&node| is_gone(view, self.removal, node));
        let mut waiting: Vec<Node> = gone.collect();
        let mut seen: HashSet<Node> = waiting.iter().copied().collect();
        while let Some(node) = waiting.pop() {
            let users = view.graph.needed_by(node).iter().map(|edge| edge.node);
            waiting.extend(users.filter(|&user| !view.graph.is_question(user) && seen.insert(user)));
        }
        let is_told = |node: &Node| is_defined(view, *node) && !is_gone(view, self.removal, *node);
        seen.into_iter().filter(is_told)
    }

    /// What is there after, and does not fail by what is gone.
    fn others(&self) -> impl Iterator<Item = Node> + '_ {
        let nodes = self.before.graph.nodes().filter(|&node| is_defined(self.before, node));
        nodes.filter(|&node| {
            let is_built = |service| self.after.resolution.ids.is_built(service);
            let is_there =
                !matches!(self.after.graph.what(node), What::Service(service) if !is_built(service));
            is_there && !self.failed.contains_key(&node) && !is_gone(self.before, self.removal, node)
        })
    }

    /// The needs of a node before and after, each pair the same need. Without its model a service may have others:
    /// then none are compared.
    fn needs(&self, node: Node) -> Vec<(NeedIndex, NeedIndex)> {
        let needs = [self.before, self.after].map(|view| needs_of(view.wiring, node));
        let [before, after] = needs.map(|needs| needs.into_iter().flatten().collect::<Vec<usize>>());
        let index = |need: usize| NeedIndex(need as u32);
        let are_the_same = before.len() == after.len();
        let pairs = before.into_iter().zip(after).filter(|_| are_the_same);
        pairs.map(|(before, after)| (index(before), index(after))).collect()
    }

    /// What changes for something that goes on: what it does without, what it collects less, what it gets instead.
    fn goes_on(&self, node: Node, impact: &mut Impact) {
        let (before, after) = (self.before, self.after);
        for (was, is) in self.needs(node) {
            let place = Some(place(before, was));
            match (before.resolution.met(was), after.resolution.met(is)) {
                (Met::Service(old), Met::Service(new)) if old != new => {
                    let how = Effect::GetsService(after.wiring.id(new).to_owned());
                    impact.replaced.push(self.affected(node, place, how));
                }
                (Met::Service(_), Met::Supplied) => {
                    impact.replaced.push(self.affected(node, place, Effect::GetsSupplied));
                }
                (Met::Service(_) | Met::All(_) | Met::Setting, Met::Absent) => {
                    let how = Effect::GoesWithout(self.lost(was));
                    impact.loses.push(self.affected(node, place, how));
                }
                (Met::Carriers(_) | Met::All(_), _) => {
                    let target = before.wiring.facts.parts.needs[was.index()].target;
                    impact.loses.extend(self.fewer(target).map(|how| self.affected(node, None, how)));
                }
                _ => {}
            }
        }
    }

    /// What a need got before.
    fn lost(&self, need: NeedIndex) -> Lost {
        match self.before.resolution.met(need) {
            Met::Service(service) => Lost::Thing(self.before.thing(Graph::service(service))),
            _ => Lost::Aim(self.before.aim(&self.before.wiring.facts.parts.needs[need.index()])),
        }
    }

    /// Which members of a group are there before and not after.
    fn fewer(&self, target: Target) -> Option<Effect> {
        let group = |view: &View<'_>| match target {
            Target::Tag(tag) => view.graph.tag(tag),
            Target::All(contract) => view.graph.all(contract),
            _ => None,
        };
        let after: HashSet<Node> = group(self.after)
            .into_iter()
            .flat_map(|group| self.after.graph.needs(group))
            .map(|edge| edge.node)
            .collect();
        let before = self.before.graph.needs(group(self.before)?).iter().map(|edge| edge.node);
        let gone = before.filter(|node| !after.contains(node));
        let mut gone: Vec<Thing> = gone.map(|node| self.before.thing(node)).collect();
        gone.sort_unstable();
        (!gone.is_empty()).then_some(Effect::CollectsFewer(gone))
    }

    fn how(&self, node: Node, cause: Cause) -> Effect {
        let what = match (cause.of, cause.need) {
            (Some(of), _) => Lost::Thing(self.after.thing(of)),
            (None, Some(need)) => {
                let before = self.needs(node).into_iter().find(|(_, after)| *after == need);
                before.map_or_else(
                    || Lost::Aim(self.after.aim(&self.after.wiring.facts.parts.needs[need.index()])),
                    |(before, _)| self.lost(before),
                )
            }
            (None, None) => return Effect::NamesWhatIsGone,
        };
        let need = cause.need.map(|need| &self.after.wiring.facts.parts.needs[need.index()]);
        Effect::Needs { what, manner: need.map(NeedManner::of).unwrap_or_default(), later: cause.later }
    }

    fn affected(&self, node: Node, place: Option<Place>, how: Effect) -> Affected {
        Affected {
            name: self.before.thing(node).name,
            module: self.before.module_of(node).unwrap_or_default().to_owned(),
            how,
            place: place.or_else(|| self.before.place(node)),
        }
    }
}

fn place(view: &View<'_>, need: NeedIndex) -> Place {
    let need = &view.wiring.facts.parts.needs[need.index()];
    Place::new(need.source, need.span, "needed here")
}

fn by_name<T: Copy>(view: &View<'_>, nodes: impl Iterator<Item = (Node, T)>) -> Vec<(Node, T)> {
    let mut nodes: Vec<(Node, T)> = nodes.collect();
    nodes.sort_by_key(|(node, _)| (view.sort_key(*node), *node));
    nodes
}
