//! What is wrong with a model: every rule but those on how files are written.

use super::model::{Aim, Attributes, Model, Need, Rule};
use super::view::{Gets, Lead, Node, Standing, View, pattern};
use corvant_core::facts::{Scalar, SuppliedKind, Via};
use corvant_core::wiring::SameId;
use std::collections::{BTreeMap, BTreeSet};

/// A rule and a subject.
pub(super) type Key = (&'static str, String);

/// Findings with the views in which they hold, `-` standing for none chosen; `None`: the rule looks at all views
/// together.
pub(crate) type Found = BTreeMap<Key, Option<BTreeSet<String>>>;

/// All findings of a model that were not accepted, and allowances that are stale on a day.
pub(crate) fn findings(model: &Model, today: &str) -> Found {
    let mut found = faults(model);
    found.retain(|(rule, _), _| !model.rules_off.contains(*rule));
    let mut accepted = BTreeSet::new();
    let mut stale = BTreeSet::new();
    for (rule, subject, until) in &model.allowances {
        let has_expired = until.as_deref().is_some_and(|until| until < today);
        let of = found.keys().find(|(name, of)| name == rule && of == subject);
        if !has_expired {
            accepted.extend(of.cloned());
        }
        if has_expired || (of.is_none() && !model.rules_off.contains(rule)) {
            stale.insert(("stale-allowance", format!("{rule} {subject}")));
        }
    }
    found.retain(|key, _| !accepted.contains(key));
    if !model.rules_off.contains("stale-allowance") {
        found.extend(stale.into_iter().map(|key| (key, None)));
    }
    found
}

fn faults(model: &Model) -> Found {
    let mut found = Found::new();
    let views: Vec<View> = model.views().into_iter().map(|stage| View::new(model, stage)).collect();
    for view in &views {
        let name = view.stage.clone().unwrap_or_else(|| "-".to_owned());
        for key in in_view(view) {
            found
                .entry(key)
                .or_insert_with(|| Some(BTreeSet::new()))
                .get_or_insert_default()
                .insert(name.clone());
        }
    }
    found.extend(in_workspace(model, &views).into_iter().map(|key| (key, None)));
    found
}

fn with_key(contract: &str, key: Option<&String>) -> String {
    key.map_or_else(|| contract.to_owned(), |key| format!("{contract}#{key}"))
}

fn in_view(view: &View<'_>) -> BTreeSet<Key> {
    let mut found = BTreeSet::new();
    let parts = [
        missing(view),
        ids(view),
        clashes(view),
        choices(view),
        declarations(view),
        cycles(view),
        definition_cycles(view),
        module_cycles(view),
        lifetimes(view),
        tags(view),
        providers(view),
        boundaries(view),
        expectations(view),
    ];
    found.extend(parts.into_iter().flatten());
    found
}

/// Whoever is there, or may be, with a need: the node, its number if it is a service, and the need.
fn audited<'m>(view: &View<'m>) -> Vec<(Node, Option<usize>, &'m Need)> {
    let mut all = Vec::new();
    for node in view.holders() {
        let at = if let Node::Service(at) = node { Some(at) } else { None };
        if at.is_none_or(|at| view.has_needs(at)) {
            all.extend(view.needs(&node).into_iter().map(|need| (node.clone(), at, need)));
        }
    }
    all
}

/// Contracts and keys of which needs get one of several, as nothing says which.
fn questions(view: &View<'_>) -> BTreeSet<(String, Option<String>)> {
    let asked =
        audited(view).into_iter().filter_map(|(_, at, need)| match (&need.aim, view.gets(at, need)) {
            (Aim::Contract(contract, key), Gets::Ambiguous(_)) => Some((contract.clone(), key.clone())),
            _ => None,
        });
    asked.collect()
}

/// Contracts of which a key is needed that nothing offers it under.
fn missing_keys(view: &View<'_>) -> BTreeSet<String> {
    let asked =
        audited(view).into_iter().filter_map(|(_, at, need)| match (&need.aim, view.gets(at, need)) {
            (Aim::Contract(contract, _), Gets::MissingKey) => Some(contract.clone()),
            _ => None,
        });
    asked.collect()
}

/// What is sought in vain.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord)]
enum Sought {
    Service(String),
    Contract(String),
    Key(String, String),
    Setting(String),
    /// What is inside the service of that id, which wraps nothing.
    Wrapped(String),
}

/// What is sought in vain, in which file, and how: under a key, or by a look-up.
struct Lack {
    sought: Sought,
    file: usize,
    key: Option<String>,
    is_look_up: bool,
}

fn lacks(view: &View<'_>) -> Vec<Lack> {
    let mut lacks = Vec::new();
    for (node, at, need) in audited(view) {
        let sought = match (view.gets(at, need), &need.aim) {
            (Gets::Missing, Aim::Service(id)) => {
                Sought::Service(view.dead_end(id).unwrap_or_else(|| id.clone()))
            }
            (Gets::Missing, Aim::Contract(contract, _) | Aim::All(contract)) => {
                Sought::Contract(contract.clone())
            }
            (Gets::Missing, Aim::Setting(setting)) => Sought::Setting(setting.clone()),
            (Gets::Missing, Aim::Wrapped) => Sought::Wrapped(view.name(&node)),
            (Gets::MissingKey, Aim::Contract(contract, Some(key))) => {
                Sought::Key(contract.clone(), key.clone())
            }
            _ => continue,
        };
        let key = if let Aim::Contract(_, key) = &need.aim { key.clone() } else { None };
        lacks.push(Lack { sought, file: need.file, key, is_look_up: need.via == Via::LookUp });
    }
    let mut add = |sought, file| lacks.push(Lack { sought, file, key: None, is_look_up: false });
    for (file, id) in references(view) {
        add(Sought::Service(id), file);
    }
    let is_supplied = |setting: &str| view.model.is_supplied(SuppliedKind::Setting, setting);
    let is_lacking = |name: &String| view.has_value(name) == Some(false) && !is_supplied(name);
    for setting in &view.model.settings {
        let referred = view.values(&setting.name).into_iter().filter(|value| value.0 == setting.file);
        let referred = referred.flat_map(|value| value.2);
        let required = Some(&setting.name).filter(|_| setting.required);
        let lacking = referred.chain(required).filter(|name| is_lacking(name));
        lacking.for_each(|name| add(Sought::Setting(name.clone()), setting.file));
    }
    lacks
}

/// Whether what is sought may be there, in what could not be read.
fn may_be_there(model: &Model, sought: &Sought) -> bool {
    match sought {
        Sought::Service(name) | Sought::Setting(name) => model.may_define(name),
        Sought::Contract(contract) => model.mentions(contract),
        Sought::Key(contract, key) => model.mentions(contract) && model.mentions(key),
        Sought::Wrapped(_) => false,
    }
}

fn missing(view: &View<'_>) -> BTreeSet<Key> {
    let mut found = BTreeSet::new();
    // By id whether it is but looked up; by contract the keys under which it is asked for.
    let mut services: BTreeMap<String, bool> = BTreeMap::new();
    let mut contracts: BTreeMap<String, BTreeSet<Option<String>>> = BTreeMap::new();
    for lack in lacks(view).into_iter().filter(|lack| !may_be_there(view.model, &lack.sought)) {
        match lack.sought {
            Sought::Service(id) => *services.entry(id).or_insert(true) &= lack.is_look_up,
            Sought::Contract(contract) => {
                contracts.entry(contract).or_default().insert(lack.key);
            }
            Sought::Key(contract, key) => {
                found.insert(("missing-key", with_key(&contract, Some(&key))));
            }
            Sought::Setting(setting) => {
                found.insert(("missing-setting", setting));
            }
            Sought::Wrapped(holder) => {
                found.insert(("missing-service", holder));
            }
        }
    }
    found.extend(
        services
            .into_iter()
            .map(|(id, is_look_up)| (if is_look_up { "lookup-of-missing" } else { "missing-service" }, id)),
    );
    found.extend(contracts.into_iter().map(|(contract, keys)| {
        let only = keys.first().cloned().flatten().filter(|_| keys.len() == 1);
        ("missing-implementation", with_key(&contract, only.as_ref()))
    }));
    let is_unseen = |name: &String| view.model.is_opaque() || view.model.mentions(name);
    for tag in view.model.tags.iter().filter(|(name, tag)| !tag.at_least.is_empty() && !is_unseen(name)) {
        let carriers: BTreeSet<usize> =
            view.carriers(tag.0).into_iter().map(|at| view.stand_in(at)).collect();
        if carriers.len() < tag.1.at_least[0] as usize {
            found.insert(("missing-carrier", tag.0.clone()));
        }
    }
    found
}

/// What misspelt names were meant to be, each with what was sought and where.
fn meant(view: &View<'_>) -> Vec<(Sought, usize, String)> {
    let model = view.model;
    let supplied = |of: SuppliedKind| {
        let all = model.supplied.iter().filter(move |one| one.0 == of as u8);
        all.map(|one| one.1.clone())
    };
    let ids = model.definitions.iter().filter(|one| !one.template).map(|one| one.id.clone());
    let ids: BTreeSet<String> = ids.chain(supplied(SuppliedKind::Service)).collect();
    let offers = model.definitions.iter().filter(|one| one.may_be_built()).flat_map(|one| &one.offers);
    let contracts = offers.cloned().chain(supplied(SuppliedKind::Contract)).collect();
    let settings = model.settings.iter().map(|setting| setting.name.clone()).collect();
    let open = lacks(view).into_iter().filter(|lack| !may_be_there(model, &lack.sought));
    let meanings = open.filter_map(|lack| {
        let meant = match &lack.sought {
            Sought::Service(name) => misspelt(name, &ids),
            Sought::Contract(name) => misspelt(name, &contracts),
            Sought::Setting(name) => misspelt(name, &settings),
            Sought::Key(..) | Sought::Wrapped(_) => None,
        }?;
        Some((lack.sought, lack.file, meant))
    });
    meanings.collect()
}

/// The closest of the known names that a few letters part from another, of several the first; none if it is known.
fn misspelt(name: &str, known: &BTreeSet<String>) -> Option<String> {
    let letters = |text: &str| -> Vec<char> {
        let kept = text.chars().filter(|letter| !".-_/:\\".contains(*letter));
        kept.flat_map(char::to_lowercase).collect()
    };
    let closeness = |other: &String| {
        let (own, other) = (letters(name), letters(other));
        let allowed = if own.len() < 5 { 1 } else { 2 };
        let shortened = |of: &[char]| -> BTreeSet<Vec<char>> {
            let count = if of.len() < 3 { 0 } else { of.len() };
            let without = |at| of.iter().enumerate().filter(|one| one.0 != at).map(|one| *one.1).collect();
            (0..count).map(without).chain([of.to_vec()]).collect()
        };
        let edits = edits(&own, &other);
        let are_close = edits <= allowed && !shortened(&own).is_disjoint(&shortened(&other));
        are_close.then_some(edits)
    };
    let close = known.iter().filter_map(|other| Some((closeness(other)?, other)));
    close.min().map(|(_, other)| other.clone()).filter(|other| other != name)
}

/// How many letters must be put in, taken out, changed or swapped with the next to make one text of another.
fn edits(one: &[char], other: &[char]) -> usize {
    let mut table = vec![vec![0; other.len() + 1]; one.len() + 1];
    for at in 0..=one.len() {
        for to in 0..=other.len() {
            if at == 0 || to == 0 {
                table[at][to] = at + to;
                continue;
            }
            let change = usize::from(one[at - 1] != other[to - 1]);
            let least =
                (table[at - 1][to] + 1).min(table[at][to - 1] + 1).min(table[at - 1][to - 1] + change);
            let is_swap = at > 1 && to > 1 && one[at - 1] == other[to - 2] && one[at - 2] == other[to - 1];
            table[at][to] = if is_swap { least.min(table[at - 2][to - 2] + 1) } else { least };
        }
    }
    table[one.len()][other.len()]
}

/// Ids that definitions or tags name and that are not there, with the file.
fn references(view: &View<'_>) -> Vec<(usize, String)> {
    let audited = (0..view.standing.len()).filter(|&at| view.is_audited(at));
    let of =
        |at: usize| missing_references(view, at).into_iter().map(move |id| (view.definition(at).file, id));
    let mut missing: Vec<(usize, String)> = audited.flat_map(of).collect();
    let collectors = view.model.tags.values().flat_map(|tag| &tag.collected_by);
    let is_there =
        |id: &String| view.first(id).is_some() || view.model.is_supplied(SuppliedKind::Service, id);
    missing.extend(collectors.filter(|(_, by)| !is_there(by)).cloned());
    missing
}

/// Ids that a definition names and that are not there: what is aliased or wrapped must be handed out, what is
/// replaced must be defined here, a model anywhere.
fn missing_references(view: &View<'_>, at: usize) -> Vec<String> {
    let (model, one) = (view.model, view.definition(at));
    let is_gone = |id: &&String| matches!(view.lead(id), Lead::Undefined | Lead::Template);
    let defined = |id: &String, here: bool| {
        let mut all = (0..model.definitions.len()).filter(|&at| model.definitions[at].id == *id);
        all.any(|at| !here || view.standing[at] != Standing::Elsewhere)
    };
    let mut missing: Vec<&String> =
        [&one.alias_of, &one.wraps].into_iter().flatten().filter(is_gone).collect();
    let replaces = one.replaces.iter().filter(|_| !one.overrides_itself());
    missing.extend(replaces.filter(|id| !defined(id, true)));
    missing.extend(one.like.iter().filter(|id| !defined(id, false)));
    missing.into_iter().filter(|id| !model.is_supplied(SuppliedKind::Service, id)).cloned().collect()
}

fn ids(view: &View<'_>) -> BTreeSet<Key> {
    let mut found: BTreeSet<Key> =
        view.duplicates.iter().map(|(id, ..)| ("duplicate-service", id.clone())).collect();
    for at in (0..view.standing.len()).filter(|&at| view.is_audited(at)) {
        let one = view.definition(at);
        if one.own_needs.iter().any(|need| need.via == Via::LookUp) {
            found.insert(("hidden-need", one.id.clone()));
        }
        let repeats = |at: usize| one.own_tags[..at].contains(&one.own_tags[at]);
        if (0..one.own_tags.len()).any(repeats) {
            found.insert(("repeated-tag", one.id.clone()));
        }
    }
    found
}

fn is_meant_for_all(model: &Model, contract: &str) -> bool {
    let said = model.contracts.get(contract).into_iter().flatten().find_map(|said| said.2.as_ref());
    said.is_some_and(|meant| meant == "all")
}

/// Who claims a contract or a key of it together: `(contract, key)` with the services.
type Clash = (String, Option<String>, BTreeSet<usize>);

fn clashes(view: &View<'_>) -> BTreeSet<Key> {
    let questions = questions(view);
    let services =
        |offers: &[(usize, usize)]| -> BTreeSet<usize> { offers.iter().map(|one| one.0).collect() };
    let defaults = |offers: Vec<(usize, usize)>| -> BTreeSet<usize> {
        offers.into_iter().filter(|one| view.definition(one.1).default).map(|one| one.0).collect()
    };
    let built = || (0..view.standing.len()).filter(|&at| view.is_built(at));
    let place = |at: usize| view.definition(at).installed.clone();
    let mut keyed: BTreeMap<(String, String, Option<String>), BTreeSet<usize>> = BTreeMap::new();
    let mut default: BTreeMap<String, BTreeSet<usize>> = BTreeMap::new();
    for at in built() {
        let one = view.definition(at);
        for offer in &one.offers {
            if let Some(key) = &one.key {
                let kind = (offer.clone(), key.clone(), place(at));
                keyed.entry(kind).or_default().insert(view.stand_in(at));
            }
            if one.default {
                default.entry(offer.clone()).or_default().insert(view.stand_in(at));
            }
        }
    }
    let mut clashes: Vec<Clash> = Vec::new();
    for ((contract, key, installed), direct) in keyed {
        let [mut exact, _] = view.offers(&contract, Some(&key));
        exact.retain(|(_, by)| place(*by) == installed);
        let is_settled =
            view.chosen(&contract, Some(&key)).is_some() || is_meant_for_all(view.model, &contract);
        let is_decided = view.model.policy.same_contract != SameId::Forbid && installed.is_none();
        let is_shared = direct.len() > 1 && services(&exact).len() > 1 && !is_decided;
        if is_shared && !is_settled && defaults(exact.clone()).len() != 1 {
            clashes.push((contract, Some(key), services(&exact)));
        }
    }
    for (contract, direct) in default {
        let all: Vec<(usize, usize)> = view.first_offers(&contract, None);
        let claims = defaults(all.clone());
        let first_by = |service: &usize| {
            let mut of = all.iter().filter(|one| one.0 == *service && view.definition(one.1).default);
            of.next().and_then(|one| view.definition(one.1).key.clone())
        };
        let keys: BTreeSet<String> = claims.iter().filter_map(first_by).collect();
        let is_asked = questions.contains(&(contract.clone(), None));
        let is_open =
            (keys.len() < claims.len() || is_asked) && view.model.policy.same_contract == SameId::Forbid;
        if direct.len() > 1 && view.chosen(&contract, None).is_none() && claims.len() > 1 && is_open {
            clashes.push((contract, None, claims));
        }
    }
    let mut found = BTreeSet::new();
    let mut others: Vec<Clash> = Vec::new();
    for (contract, key) in &questions {
        let offers = view.first_offers(contract, key.as_ref());
        let claims = if key.is_some() { services(&offers) } else { defaults(offers) };
        let is_covered = |clash: &Clash| clash.1 == *key && claims.len() > 1 && claims.is_subset(&clash.2);
        if clashes.iter().any(is_covered) {
            continue;
        }
        let is_clash = match key {
            Some(_) => {
                let is_installed = claims.iter().any(|&at| place(at).is_some());
                !is_meant_for_all(view.model, contract) && !is_installed
            }
            None => claims.len() > 1,
        };
        if is_clash {
            others.push((contract.clone(), key.clone(), claims));
        } else {
            found.insert(("ambiguous-implementation", with_key(contract, key.as_ref())));
        }
    }
    found.extend(clashes.into_iter().chain(others).map(|(contract, key, _)| {
        let rule = if key.is_some() { "duplicate-key" } else { "duplicate-default" };
        (rule, with_key(&contract, key.as_ref()))
    }));
    found
}

fn choices(view: &View<'_>) -> BTreeSet<Key> {
    let mut found = BTreeSet::new();
    let is_own = |stage: &Option<String>| view.stage.is_some() && *stage == view.stage;
    for choice in &view.model.choices {
        let subject = with_key(&choice.contract, choice.key.as_ref());
        let same = |other: &&super::model::Choice| {
            other.contract == choice.contract && other.key == choice.key && other.stage == choice.stage
        };
        let Some(chosen) = view.chosen(&choice.contract, choice.key.as_ref()) else { continue };
        // One for the stage takes the place of one for all.
        let is_first = view.model.choices.iter().any(|other| {
            other.contract == choice.contract && other.key == choice.key && is_own(&other.stage)
        });
        let counts = is_own(&choice.stage) || choice.stage.is_none() && !is_first;
        if counts && view.model.choices.iter().filter(same).any(|other| other.service != choice.service) {
            found.insert(("duplicate-default", subject.clone()));
        }
        let fits = match view.lead(chosen) {
            _ if view.model.is_supplied(SuppliedKind::Service, chosen) => true,
            _ if view.model.may_define(chosen) => true,
            Lead::Service(service) => view.candidates(&choice.contract).contains(&service),
            Lead::Nowhere => true,
            Lead::Undefined | Lead::Template => false,
        };
        if !fits {
            found.insert(("choice-mismatch", subject));
        }
    }
    found
}

fn declarations(view: &View<'_>) -> BTreeSet<Key> {
    let mut found = BTreeSet::new();
    let mut differ = |kind: &str, name: &str, is_so: bool| {
        found.extend(is_so.then(|| ("conflicting-declaration", format!("{kind} {name}"))));
    };
    for setting in &view.model.settings {
        let values: BTreeSet<&String> = view.values(&setting.name).into_iter().map(|value| value.1).collect();
        differ("setting", &setting.name, values.len() > 1);
    }
    for (name, said) in &view.model.contracts {
        let meant: BTreeSet<&String> = said.iter().filter_map(|said| said.2.as_ref()).collect();
        let keys: BTreeSet<_> = said.iter().map(|said| &said.3).filter(|keys| !keys.is_empty()).collect();
        differ("contract", name, meant.len() > 1 || keys.len() > 1);
    }
    for (name, tag) in &view.model.tags {
        let plain = |rules: &BTreeMap<String, Rule>| -> BTreeMap<String, Rule> {
            rules.iter().map(|(name, rule)| (name.clone(), Rule { order: 0, ..rule.clone() })).collect()
        };
        let attributes: Vec<_> = tag.attributes.iter().map(plain).collect();
        let is_so = tag.contracts.iter().any(|other| *other != tag.contracts[0])
            || tag.at_least.iter().any(|other| *other != tag.at_least[0])
            || attributes.iter().any(|other| *other != attributes[0]);
        differ("tag", name, is_so);
    }
    found
}

/// Groups of nodes that lead to one another, each with all of its members.
fn groups<N: Ord + Clone>(edges: &BTreeMap<N, BTreeSet<N>>) -> Vec<BTreeSet<N>> {
    let reach = |from: &N| {
        let mut seen: BTreeSet<N> = BTreeSet::new();
        let mut waiting: Vec<N> = edges.get(from).into_iter().flatten().cloned().collect();
        while let Some(node) = waiting.pop() {
            if seen.insert(node.clone()) {
                waiting.extend(edges.get(&node).into_iter().flatten().cloned());
            }
        }
        seen
    };
    let reached: BTreeMap<&N, BTreeSet<N>> = edges.keys().map(|node| (node, reach(node))).collect();
    let mut groups: Vec<BTreeSet<N>> = Vec::new();
    for (node, there) in &reached {
        if there.contains(node) && !groups.iter().any(|group| group.contains(node)) {
            let back = |other: &&N| reached.get(other).is_some_and(|there| there.contains(node));
            groups.push(there.iter().filter(back).cloned().collect());
        }
    }
    groups
}

/// Of the shortest cycles in a group the first by the names of its members, beginning at the smallest name among
/// those that `begins` says may begin one.
fn shortest<N: Ord + Clone>(
    edges: &BTreeMap<N, BTreeSet<N>>,
    group: &BTreeSet<N>,
    name: impl Fn(&N) -> String,
    begins: impl Fn(&N) -> bool,
) -> Vec<N> {
    let mut ways: Vec<Vec<N>> =
        group.iter().filter(|node| begins(node)).map(|node| vec![node.clone()]).collect();
    loop {
        let closes = |way: &&Vec<N>| edges[&way[way.len() - 1]].contains(&way[0]);
        let names = |way: &&Vec<N>| -> Vec<String> { way.iter().map(&name).collect() };
        if let Some(way) = ways.iter().filter(closes).min_by_key(names) {
            return way.clone();
        }
        let longer = ways.iter().flat_map(|way| {
            let next = edges[&way[way.len() - 1]].iter();
            let next = next.filter(|next| group.contains(next) && !way.contains(next));
            next.map(|next| way.iter().cloned().chain([next.clone()]).collect())
        });
        ways = longer.collect();
    }
}

/// Who needs whom over needs that are met without a look-up; `hard`: while being built.
fn graph(view: &View<'_>, hard: bool) -> BTreeMap<Node, BTreeSet<Node>> {
    let mut nodes: Vec<Node> = (0..view.standing.len()).map(Node::Service).collect();
    nodes.extend(view.all_needs().filter_map(|need| match &need.aim {
        Aim::Tag(tag) => Some(Node::Tag(tag.clone())),
        Aim::All(contract) => Some(Node::All(contract.clone())),
        _ => None,
    }));
    nodes.extend(view.model.tags.keys().cloned().map(Node::Tag));
    let edges = |node: Node| {
        let is_kept = |edge: &super::view::Edge| {
            edge.need.is_none_or(|need| need.via != Via::LookUp) && (!hard || edge.is_for_building())
        };
        let edges = view.edges(&node, false).into_iter().filter(is_kept).map(|edge| edge.to).collect();
        (node, edges)
    };
    nodes.into_iter().map(edges).collect()
}

fn cycles(view: &View<'_>) -> BTreeSet<Key> {
    let (hard, any) = (graph(view, true), graph(view, false));
    let hard_groups = groups(&hard);
    let is_service = |node: &Node| matches!(node, Node::Service(_));
    let key = |edges: &BTreeMap<Node, BTreeSet<Node>>, group: &BTreeSet<Node>| {
        let cycle = shortest(edges, group, |node| view.name(node), is_service);
        let services: Vec<String> =
            cycle.iter().filter(|node| is_service(node)).map(|node| view.name(node)).collect();
        ("service-cycle", services.join(" > "))
    };
    let mut found: BTreeSet<Key> = hard_groups.iter().map(|group| key(&hard, group)).collect();
    let opened =
        groups(&any).into_iter().filter(|group| hard_groups.iter().all(|hard| hard.is_disjoint(group)));
    found.extend(opened.map(|group| key(&any, &group)));
    found
}

/// What cannot be built or used, by kind and name: what lacks something, names what is not there, is in a cycle or
/// collects too few, and all that needs or collects one of those.
pub(crate) fn failing(view: &View<'_>) -> BTreeSet<(&'static str, String)> {
    let mut failed: BTreeSet<Node> = groups(&graph(view, true)).into_iter().flatten().collect();
    for (name, tag) in view.model.tags.iter().filter(|(_, tag)| !tag.at_least.is_empty()) {
        let carriers: BTreeSet<usize> = view.carriers(name).into_iter().map(|at| view.stand_in(at)).collect();
        failed.extend((carriers.len() < tag.at_least[0] as usize).then(|| Node::Tag(name.clone())));
    }
    let is_there = |node: &Node| match node {
        Node::Service(at) => view.is_built(*at),
        Node::Provider(at) => {
            view.loaded().is_none_or(|loaded| loaded.contains(&view.model.providers[*at].id))
        }
        _ => true,
    };
    for node in view.holders().into_iter().filter(is_there) {
        let at = if let Node::Service(at) = node { Some(at) } else { None };
        let lacks = view.needs(&node).into_iter().any(|need| {
            let gets = view.gets(at, need);
            let is_open =
                matches!(gets, Gets::Missing | Gets::MissingKey | Gets::Ambiguous(_) | Gets::Misguided);
            is_open && !need.optional
        });
        if lacks || at.is_some_and(|at| !missing_references(view, at).is_empty()) {
            failed.insert(node);
        }
    }
    let groups = view.model.tags.keys().cloned().map(Node::Tag);
    let collected = view.all_needs().filter_map(|need| match &need.aim {
        Aim::Tag(tag) => Some(Node::Tag(tag.clone())),
        Aim::All(contract) => Some(Node::All(contract.clone())),
        _ => None,
    });
    let all: BTreeSet<Node> = view.holders().into_iter().chain(groups).chain(collected).collect();
    loop {
        let falls = |node: &&Node| view.edges(node, false).iter().any(|edge| failed.contains(&edge.to));
        let more: Vec<Node> = all.difference(&failed).filter(falls).cloned().collect();
        if more.is_empty() {
            break;
        }
        failed.extend(more);
    }
    let name = |node: &Node| match node {
        Node::Service(_) => Some(("service", view.name(node))),
        Node::Entry(_) => Some(("entry", view.name(node))),
        Node::Provider(_) => Some(("provider", view.name(node))),
        Node::Tag(_) | Node::All(_) => None,
    };
    failed.iter().filter_map(name).collect()
}

/// Cycles of names.
fn name_cycles(rule: &'static str, edges: &BTreeMap<String, BTreeSet<String>>) -> BTreeSet<Key> {
    let cycle = |group: &BTreeSet<String>| shortest(edges, group, Clone::clone, |_| true).join(" > ");
    groups(edges).iter().map(|group| (rule, cycle(group))).collect()
}

fn definition_cycles(view: &View<'_>) -> BTreeSet<Key> {
    let model = view.model;
    let mut found = BTreeSet::new();
    let mut models: BTreeMap<String, BTreeSet<String>> = BTreeMap::new();
    let mut ids: BTreeMap<String, BTreeSet<String>> = BTreeMap::new();
    for (at, one) in model.definitions.iter().enumerate() {
        if let Some(like) = one.like.as_ref().filter(|_| model.model_of(&one.id) == Some(at)) {
            models.entry(one.id.clone()).or_default().insert(like.clone());
        }
        if view.counts(at) {
            let wraps = one.wraps.clone().filter(|_| one.may_be_built());
            ids.entry(one.id.clone()).or_default().extend(one.alias_of.clone().into_iter().chain(wraps));
            let several = model.definitions.iter().filter(|other| other.id == one.id).count() > 1;
            let replaced = one.replaces.as_ref().filter(|_| !one.overrides_itself() || !several);
            if let Some(id) = replaced {
                ids.entry(id.clone()).or_default().insert(one.id.clone());
            }
        }
    }
    for group in groups(&models) {
        if group.iter().any(|id| model.model_of(id).is_some_and(|at| view.is_audited(at))) {
            let cycle = shortest(&models, &group, Clone::clone, |_| true);
            found.insert(("definition-cycle", cycle.join(" > ")));
        }
    }
    let mut settings: BTreeMap<String, BTreeSet<String>> = BTreeMap::new();
    for setting in &model.settings {
        let to = view.values(&setting.name).into_iter().flat_map(|value| value.2.clone());
        settings.entry(setting.name.clone()).or_default().extend(to);
    }
    let mut providers: BTreeMap<String, BTreeSet<String>> = BTreeMap::new();
    for provider in &model.providers {
        providers.entry(provider.id.clone()).or_default().extend(provider.after.clone());
    }
    for edges in [ids, settings, providers] {
        found.extend(name_cycles("definition-cycle", &edges));
    }
    found
}

/// The module whose need leads to another's name, and that other; what is needed on a contract is its declarer's.
fn crossing(model: &Model, need: &Need) -> Option<(String, String)> {
    let only = |modules: BTreeSet<&String>| modules.first().copied().filter(|_| modules.len() == 1).cloned();
    let to = match &need.aim {
        Aim::Service(id) => {
            let mut all = model.definitions.iter().filter(|one| one.id == *id);
            let one = all.next().filter(|one| !one.template)?;
            if all.next().is_some() {
                return None;
            }
            model.module(one.file).cloned()
        }
        Aim::Contract(contract, _) | Aim::All(contract) => {
            only(model.contracts.get(contract)?.iter().filter_map(|said| model.module(said.0)).collect())
        }
        Aim::Setting(setting) => {
            let all = model.settings.iter().filter(|one| one.name == *setting);
            only(all.filter_map(|one| model.module(one.file)).collect())
        }
        Aim::Tag(_) | Aim::Wrapped => None,
    }?;
    let from = model.module(need.file)?.clone();
    (from != to).then_some((from, to))
}

fn crossings(view: &View<'_>) -> BTreeSet<(String, String)> {
    audited(view).into_iter().filter_map(|(.., need)| crossing(view.model, need)).collect()
}

fn module_cycles(view: &View<'_>) -> BTreeSet<Key> {
    let mut edges: BTreeMap<String, BTreeSet<String>> = BTreeMap::new();
    for (from, to) in crossings(view) {
        edges.entry(from).or_default().insert(to);
    }
    name_cycles("module-cycle", &edges)
}

fn lifetimes(view: &View<'_>) -> BTreeSet<Key> {
    let lifetimes = &view.model.policy.lifetimes;
    // How far down the order; `use` is as long as its holder; nothing where it is not said.
    let rank = |word: Option<&String>| match word {
        Some(word) if word == "use" => Some(None),
        Some(word) => lifetimes.order.iter().position(|known| known == word).map(Some),
        None => None,
    };
    let nodes = view.holders();
    let life = |node: &Node| match node {
        Node::Service(at) => rank(view.definition(*at).lifetime.as_ref().or(lifetimes.default.as_ref())),
        Node::Entry(at) => rank(view.model.entries[*at].1.lifetime.as_ref()),
        _ => None,
    };
    let holds = |holder: &Node, held: &Node| {
        view.edges(holder, false).iter().any(|edge| {
            edge.to == *held
                && edge.need.is_none_or(|need| {
                    !need.lazy && matches!(need.via, Via::Constructor | Via::Setter | Via::Property)
                })
        })
    };
    let mut found = BTreeSet::new();
    for short in 1..lifetimes.order.len() {
        // What each of lifetime `use` catches: the nearest, of several the first by definition.
        let mut level: Vec<(Node, Node)> = nodes
            .iter()
            .filter(|node| life(node) == Some(Some(short)))
            .map(|node| (node.clone(), node.clone()))
            .collect();
        let mut through: BTreeSet<Node> = BTreeSet::new();
        while !level.is_empty() {
            let mut next: BTreeMap<Node, Node> = BTreeMap::new();
            for (held, caught) in &level {
                for holder in nodes.iter().filter(|holder| holds(holder, held)) {
                    match life(holder) {
                        Some(Some(longer)) if longer < short => {
                            let subject = format!("{} > {}", view.name(holder), view.name(caught));
                            found.insert(("short-lived-need", subject));
                        }
                        Some(None) if !through.contains(holder) => {
                            let known = next.entry(holder.clone()).or_insert_with(|| caught.clone());
                            *known = (*known).clone().min(caught.clone());
                        }
                        _ => {}
                    }
                }
            }
            through.extend(next.keys().cloned());
            level = next.into_iter().collect();
        }
    }
    found
}

fn tags(view: &View<'_>) -> BTreeSet<Key> {
    let mut found = BTreeSet::new();
    let mut taken: BTreeMap<(String, String, String), usize> = BTreeMap::new();
    let offers = |at: usize, contract: &str| view.candidates(contract).contains(&view.stand_in(at));
    for at in (0..view.standing.len()).filter(|&at| view.is_built(at)) {
        let one = view.definition(at);
        for (name, given) in &one.tags {
            if !view.knows_tag(name) && !view.model.mentions(name) {
                found.insert(("unknown-tag", name.clone()));
            }
            let Some(tag) = view.model.tags.get(name) else { continue };
            let lacks = |contract: &String| !offers(at, contract) && !view.model.mentions(contract);
            if tag.contracts.first().is_some_and(lacks) {
                found.insert(("tag-contract", one.id.clone()));
            }
            let Some(rules) = tag.attributes.first() else { continue };
            let is_faulty = given.keys().any(|known| !rules.contains_key(known))
                | rules.iter().fold(false, |faulty, (attribute, rule)| {
                    let fault = match given.get(attribute) {
                        None => rule.required,
                        Some(value) if !fits(rule, value) => true,
                        Some((value, _)) if rule.unique => {
                            let key = (name.clone(), attribute.clone(), value.clone());
                            *taken.entry(key).or_insert(at) != at
                        }
                        Some(_) => false,
                    };
                    faulty | fault
                });
            if is_faulty {
                found.insert(("tag-attribute", one.id.clone()));
            }
        }
    }
    for (name, tag) in &view.model.tags {
        let carriers = view.carriers(name);
        let collected: BTreeSet<usize> = carriers.iter().map(|&at| view.stand_in(at)).collect();
        if let Some(contract) = tag.contracts.first().filter(|_| tag.carried_by_all) {
            let mut innermost: BTreeMap<usize, usize> = BTreeMap::new();
            for (service, by) in view.offers(contract, None).into_iter().flatten() {
                let known = innermost.entry(service).or_insert(by);
                if is_inside(view, by, *known) {
                    *known = by;
                }
            }
            for (_, by) in innermost.into_iter().filter(|(service, _)| !collected.contains(service)) {
                let one = view.definition(by);
                if one.tags.iter().all(|(tag, _)| view.knows_tag(tag)) {
                    found.insert(("untagged-service", one.id.clone()));
                }
            }
        }
        let Some(order) = order_of(tag.attributes.first()) else { continue };
        let mut first: BTreeMap<Vec<String>, usize> = BTreeMap::new();
        for at in carriers {
            let given =
                &view.definition(at).tags.iter().find(|(tag, _)| tag == name).expect("it carries it").1;
            let Some(place) = place(&order, given) else { continue };
            let other = *first.entry(place).or_insert(at);
            if view.stand_in(other) != view.stand_in(at) {
                found.insert(("tag-order-tie", view.definition(at).id.clone()));
            }
        }
    }
    found
}

fn is_inside(view: &View<'_>, inner: usize, outer: usize) -> bool {
    let mut next = view.inside(outer);
    while let Some(at) = next {
        if at == inner {
            return true;
        }
        next = view.inside(at);
    }
    false
}

fn fits(rule: &Rule, (value, kind): &(String, Scalar)) -> bool {
    let is_kind = match rule.kind {
        None => true,
        Some(Scalar::Number) => matches!(kind, Scalar::Integer | Scalar::Number),
        Some(asked) => *kind == asked,
    };
    is_kind && (rule.one_of.is_empty() || rule.one_of.contains(value))
}

/// Attributes that every carrier must give as numbers; no order where one of them is unique.
fn order_of(rules: Option<&BTreeMap<String, Rule>>) -> Option<Vec<String>> {
    let mut order: Vec<(&usize, &String, bool)> = rules?
        .iter()
        .filter(|(_, rule)| rule.required && matches!(rule.kind, Some(Scalar::Integer | Scalar::Number)))
        .map(|(name, rule)| (&rule.order, name, rule.unique))
        .collect();
    order.sort();
    let is_order = !order.is_empty() && !order.iter().any(|(.., unique)| *unique);
    is_order.then(|| order.into_iter().map(|(_, name, _)| name.clone()).collect())
}

fn place(order: &[String], given: &Attributes) -> Option<Vec<String>> {
    let value = |name: &String| {
        let (value, kind) = given.get(name)?;
        matches!(kind, Scalar::Integer | Scalar::Number).then(|| value.clone())
    };
    order.iter().map(value).collect()
}

fn providers(view: &View<'_>) -> BTreeSet<Key> {
    let model = view.model;
    let mut found = BTreeSet::new();
    for roster in view.rosters() {
        for (at, id) in roster.iter().enumerate() {
            if roster[..at].contains(id) {
                found.insert(("duplicate-provider", id.clone()));
            }
            if !model.providers.iter().any(|provider| provider.id == *id) && !model.may_define(id) {
                found.insert(("missing-provider", id.clone()));
            }
        }
    }
    // The providers that register a service, in their order.
    let registrars = |at: usize| -> Vec<usize> {
        let one = view.definition(at);
        let registers = |provider: &super::model::Provider| match &provider.registers {
            Some(ids) => ids.contains(&one.id),
            None => model.module(provider.file).is_some_and(|of| model.module(one.file) == Some(of)),
        };
        (0..model.providers.len()).filter(|&number| registers(&model.providers[number])).collect()
    };
    if let Some(loaded) = view.loaded().filter(|_| !model.is_opaque()) {
        let waits_for = |at: usize| {
            let all = registrars(at);
            let is_loaded = all.iter().any(|&number| loaded.contains(&model.providers[number].id));
            all.first().copied().filter(|_| !is_loaded)
        };
        let mut in_vain = BTreeSet::new();
        for node in view.holders() {
            if matches!(node, Node::Service(at) if waits_for(at).is_some()) {
                continue;
            }
            for edge in view.edges(&node, false) {
                if let Node::Service(at) = edge.to
                    && edge.need.is_none_or(|need| !need.optional)
                {
                    in_vain.extend(waits_for(at));
                }
            }
        }
        let anywhere = |id: &String| model.rosters.iter().any(|roster| roster.1.contains(id));
        for (number, provider) in model.providers.iter().enumerate() {
            let is_forgotten = !loaded.contains(&provider.id) && !anywhere(&provider.id);
            if (in_vain.contains(&number) || is_forgotten) && !model.mentions(&provider.id) {
                found.insert(("unlisted-provider", provider.id.clone()));
            }
        }
    }
    let [roster] = view.rosters()[..] else { return found };
    let position = |id: &String| roster.iter().position(|listed| listed == id);
    for provider in &model.providers {
        let Some(at) = position(&provider.id) else { continue };
        for after in provider.after.iter().filter(|after| position(after).is_some_and(|other| other > at)) {
            found.insert(("needed-too-early", format!("{} > {after}", provider.id)));
        }
        let mut seen: BTreeSet<Node> = BTreeSet::new();
        let number =
            model.providers.iter().position(|other| std::ptr::eq(other, provider)).expect("it is one");
        let used = provider.register.iter().filter(|need| !need.lazy);
        let mut waiting: Vec<Node> =
            used.flat_map(|need| view.targets(&Node::Provider(number), need, false)).collect();
        while let Some(node) = waiting.pop() {
            if !seen.insert(node.clone()) {
                continue;
            }
            let registered = match node {
                Node::Service(service) => {
                    let all = registrars(service);
                    all.iter().filter_map(|&number| position(&model.providers[number].id)).min()
                }
                _ => None,
            };
            if registered.is_some_and(|registered| registered > at) {
                found.insert(("needed-too-early", format!("{} > {}", provider.id, view.name(&node))));
                continue;
            }
            let edges = view.edges(&node, false).into_iter().filter(super::view::Edge::is_for_building);
            waiting.extend(edges.map(|edge| edge.to));
        }
    }
    found
}

fn boundaries(view: &View<'_>) -> BTreeSet<Key> {
    let model = view.model;
    let mut found = BTreeSet::new();
    for (from, to) in crossings(view) {
        let of = || model.files.iter().filter(|file| file.module.as_ref() == Some(&from));
        let may_say = |folder: &String| {
            let unnamed = model.files.iter().filter(|file| file.module.is_none() && file.folder == *folder);
            unnamed.into_iter().any(|file| file.mentions.contains(&to))
        };
        let may_use =
            of().any(|file| file.uses.contains(&to) || file.mentions.contains(&to) || may_say(&file.folder));
        if of().any(|file| file.uses_given) && !may_use {
            found.insert(("undeclared-use", format!("{from} > {to}")));
        }
    }
    for (_, at, need) in audited(view) {
        let Some(from) = model.module(need.file) else { continue };
        found.extend(
            reached(view, from, at, need).map(|at| ("internal-reach", view.definition(at).id.clone())),
        );
    }
    found
}

/// The internal definition of another module that a need comes to name.
fn reached(view: &View<'_>, from: &String, holder: Option<usize>, need: &Need) -> Option<usize> {
    let module = |at: usize| view.model.module(view.definition(at).file);
    let is_foreign = |at: usize| view.definition(at).internal && module(at).is_some_and(|of| of != from);
    let is_closed = |at: usize| {
        let mut around = view.around.get(&at);
        let mut is_opened = false;
        while let Some(&wrapper) = around {
            is_opened |= module(wrapper) == module(at) && !view.definition(wrapper).internal;
            around = view.around.get(&wrapper);
        }
        is_foreign(at) && !is_opened
    };
    let on_the_way = |id: &String| {
        let named = |id: &String| view.named.get(id).copied().or_else(|| view.first(id));
        let mut opened = BTreeSet::new();
        let mut at = named(id)?;
        for _ in 0..=view.standing.len() {
            if !module(at).is_some_and(|of| opened.contains(of)) && is_closed(at) {
                return Some(at);
            }
            opened.extend(module(at));
            at = named(view.definition(at).alias_of.as_ref()?)?;
        }
        None
    };
    match (&need.aim, view.gets(holder, need)) {
        (Aim::Service(id), Gets::Service(_)) => on_the_way(id),
        (Aim::Contract(contract, key), Gets::Service(service)) => {
            if let Some(chosen) = view.chosen(contract, key.as_ref()) {
                return on_the_way(chosen);
            }
            let offers = view.first_offers(contract, key.as_ref());
            let by: Vec<usize> = offers.iter().filter(|one| one.0 == service).map(|one| one.1).collect();
            by.first().copied().filter(|_| by.iter().all(|&by| is_closed(by)))
        }
        (Aim::Wrapped, Gets::Service(inside)) => {
            let is_around = view.around.contains_key(&inside);
            Some(inside).filter(|&inside| is_around && is_foreign(inside))
        }
        _ => None,
    }
}

fn expectations(view: &View<'_>) -> BTreeSet<Key> {
    let mut found = BTreeSet::new();
    for line in &view.model.expectations {
        let name = line.contract.as_ref().or(line.service.as_ref()).expect("it names one");
        let gets = match &line.service {
            Some(id) => match view.lead(id) {
                Lead::Service(service) => Gets::Service(service),
                _ if view.model.is_supplied(SuppliedKind::Service, id) => Gets::Supplied,
                Lead::Nowhere => Gets::Unknown,
                Lead::Template | Lead::Undefined => Gets::Missing,
            },
            None => view.ask(name, line.key.as_ref()),
        };
        let is_met = match gets {
            Gets::Service(service) => {
                let one = view.definition(service);
                let is_other = |expected: &Option<String>, found: &Option<String>| {
                    expected.is_some() && found.is_some() && expected != found
                };
                line.met_by.as_ref().is_none_or(|by| view.lead(by) == Lead::Service(service))
                    && !is_other(&line.type_name, &one.type_name)
                    && !is_other(&line.lifetime, &one.lifetime)
            }
            Gets::Missing | Gets::MissingKey | Gets::Ambiguous(_) | Gets::Misguided => false,
            _ => true,
        };
        let names = [&line.contract, &line.service, &line.met_by].into_iter().flatten();
        let is_unseen = view.model.is_opaque() || names.into_iter().any(|name| view.model.mentions(name));
        if !is_met && !is_unseen {
            found.insert(("unmet-expectation", with_key(name, line.key.as_ref())));
        }
    }
    found
}

/// What is used in a view: all that is reached from outside, or would be but for a fault that is a finding of its
/// own.
fn used(view: &View<'_>) -> BTreeSet<Node> {
    let model = view.model;
    let mut waiting: Vec<Node> = (0..model.entries.len()).map(Node::Entry).collect();
    let id = |id: &String| view.first(id).map(|first| Node::Service(view.stand_in(first)));
    let contract =
        |contract: &str| view.candidates(contract).into_iter().map(Node::Service).collect::<Vec<_>>();
    for line in &model.expectations {
        waiting.extend([&line.service, &line.met_by].into_iter().flatten().filter_map(id));
        waiting.extend(line.contract.iter().flat_map(|name| contract(name)));
    }
    let supplied = model.supplied.iter().filter(|one| one.0 == SuppliedKind::Tag as u8);
    waiting.extend(supplied.map(|one| Node::Tag(one.1.clone())));
    waiting.extend(missing_keys(view).iter().flat_map(|name| contract(name)));
    for (sought, _, meant) in meant(view) {
        match sought {
            Sought::Service(_) => waiting.extend(id(&meant)),
            Sought::Contract(_) => waiting.extend(contract(&meant)),
            _ => {}
        }
    }
    for word in model.files.iter().flat_map(|file| &file.mentions) {
        waiting.extend(id(word).into_iter().chain(contract(word)).chain([Node::Tag(word.clone())]));
    }
    let installed = (0..view.standing.len()).filter(|&at| view.definition(at).installed.is_some());
    waiting.extend(installed.map(Node::Service));
    for at in (0..view.standing.len()).filter(|&at| view.is_built(at)) {
        if view.definition(at).tags.iter().any(|(tag, _)| !view.knows_tag(tag)) {
            waiting.extend([at, view.stand_in(at)].map(Node::Service));
        }
    }
    for (name, tag) in &model.tags {
        let node = Node::Tag(name.clone());
        let is_collected =
            view.holders().iter().any(|holder| view.edges(holder, true).iter().any(|edge| edge.to == node));
        waiting.extend((!is_collected).then_some(node));
        waiting.extend(
            tag.contracts.first().filter(|_| tag.carried_by_all).iter().flat_map(|name| contract(name)),
        );
    }
    if model.policy.same_id == corvant_core::wiring::SameId::Forbid {
        for &(_, _, other) in &view.duplicates {
            waiting.push(Node::Service(view.stand_in(other)));
            let needs = view.definition(other).needs.iter();
            waiting.extend(needs.flat_map(|need| view.targets(&Node::Service(other), need, true)));
        }
    }
    for number in 0..model.providers.len() {
        let node = Node::Provider(number);
        waiting.extend(view.needs(&node).into_iter().flat_map(|need| view.targets(&node, need, true)));
    }
    let mut used = BTreeSet::new();
    while let Some(node) = waiting.pop() {
        if used.insert(node.clone()) {
            let edges = view.edges(&node, true);
            // Of several that the workspace decides between none is there for nothing.
            let decides = model.policy.same_contract != SameId::Forbid;
            let asked = edges.iter().filter(|_| decides).filter_map(|edge| match &edge.need?.aim {
                Aim::Contract(name, _) => Some(name),
                _ => None,
            });
            waiting.extend(asked.flat_map(|name| contract(name)));
            waiting.extend(edges.into_iter().map(|edge| edge.to));
        }
    }
    used
}

fn in_workspace(model: &Model, views: &[View<'_>]) -> BTreeSet<Key> {
    let mut found = BTreeSet::new();
    // A definition counts as use unless another takes its place wherever it is.
    let counting: Vec<usize> = (0..model.definitions.len())
        .filter(|&at| {
            let most = views.iter().map(|view| view.standing[at]).max();
            most != Some(Standing::Overridden)
        })
        .collect();
    let definitions = || counting.iter().map(|&at| &model.definitions[at]);
    let entries = model.entries.iter().flat_map(|(_, entry)| &entry.needs);
    let providers = model.providers.iter().flat_map(|one| one.register.iter().chain(&one.start));
    let needs: Vec<&Need> =
        definitions().flat_map(|one| &one.needs).chain(entries).chain(providers).collect();
    let is_unseen = |name: &String| model.is_opaque() || model.mentions(name);
    let meant: Vec<(Sought, usize, String)> = views.iter().flat_map(meant).collect();
    let meanings = || meant.iter().map(|(.., name)| name);
    if !model.entries.is_empty() && !model.is_opaque() {
        let reached: Vec<BTreeSet<Node>> = views.iter().map(used).collect();
        for at in 0..model.definitions.len() {
            let is_built = views.iter().any(|view| view.is_built(at));
            if is_built && !reached.iter().any(|used| used.contains(&Node::Service(at))) {
                found.insert(("unused-service", model.definitions[at].id.clone()));
            }
        }
    }
    let mut called = called(model, &needs, definitions().collect());
    called.extend(meanings().cloned());
    let aliases = definitions().filter(|one| one.alias_of.is_some() && !called.contains(&one.id));
    let aliases = aliases.filter(|one| !is_unseen(&one.id));
    found.extend(aliases.map(|one| ("unused-alias", one.id.clone())));
    let mut settings: BTreeSet<&String> = needs
        .iter()
        .filter_map(|need| match &need.aim {
            Aim::Setting(setting) => Some(setting),
            _ => None,
        })
        .collect();
    settings.extend(meanings());
    for setting in &model.settings {
        settings.extend(setting.value.iter().flat_map(|value| &value.1));
        settings.extend(setting.stages.iter().flat_map(|value| &value.2));
    }
    let lacking: BTreeSet<Sought> = views.iter().flat_map(lacks).map(|lack| lack.sought).collect();
    let is_lacking = |name: &String| lacking.contains(&Sought::Setting(name.clone()));
    let idle = model.settings.iter().map(|setting| &setting.name);
    let idle = idle.filter(|name| !settings.contains(name) && !is_lacking(name) && !is_unseen(name));
    found.extend(idle.map(|name| ("unused-setting", name.clone())));
    let contracts = used_contracts(model, &needs, meanings(), &views[0]);
    let idle = model.contracts.keys().filter(|name| !contracts.contains(*name) && !is_unseen(name));
    found.extend(idle.map(|name| ("unused-contract", name.clone())));
    let carried: BTreeSet<&String> =
        definitions().flat_map(|one| one.tags.iter().map(|(tag, _)| tag)).collect();
    for (name, tag) in &model.tags {
        if tag.at_least.is_empty() && !carried.contains(name) && !is_unseen(name) {
            found.insert(("unused-tag", name.clone()));
        }
        let is_collected = !tag.collected_by.is_empty()
            || model.is_supplied(SuppliedKind::Tag, name)
            || needs.iter().any(|need| need.aim == Aim::Tag(name.clone()));
        let is_carried = views.iter().any(|view| !view.carriers(name).is_empty());
        if is_carried && !is_collected && !is_unseen(name) {
            found.insert(("uncollected-tag", name.clone()));
        }
    }
    for choice in &model.choices {
        let is_asked =
            needs.iter().any(|need| need.aim == Aim::Contract(choice.contract.clone(), choice.key.clone()))
                || model
                    .expectations
                    .iter()
                    .any(|line| line.contract.as_ref() == Some(&choice.contract) && line.key == choice.key);
        if !is_asked && !is_unseen(&choice.contract) {
            found.insert(("unused-choice", with_key(&choice.contract, choice.key.as_ref())));
        }
    }
    let types = model.definitions.iter().filter_map(|one| one.checked_type.as_ref());
    let missing = types.filter(|name| !model.types.contains(*name) && !model.mentions(name));
    found.extend(missing.map(|name| ("missing-type", name.clone())));
    for provider in &model.providers {
        for id in provider.registers.iter().flatten() {
            let is_there = model.definitions.iter().any(|one| one.id == *id)
                || model.is_supplied(SuppliedKind::Service, id)
                || model.may_define(id);
            if !is_there {
                found.insert(("empty-promise", format!("{} > {id}", provider.id)));
            }
        }
    }
    let pairs = mentions(model, views, &needs, &definitions().collect::<Vec<_>>(), &meant);
    found.extend(uses(model, &pairs));
    found.extend(lookalikes(model));
    found
}

/// Ids that something asks for by name.
fn called(model: &Model, needs: &[&Need], definitions: Vec<&super::model::Definition>) -> BTreeSet<String> {
    let mut called: BTreeSet<&String> = needs
        .iter()
        .filter_map(|need| match &need.aim {
            Aim::Service(id) => Some(id),
            _ => None,
        })
        .collect();
    for one in definitions {
        called.extend([&one.alias_of, &one.like, &one.wraps, &one.replaces].into_iter().flatten());
    }
    called.extend(model.choices.iter().map(|choice| &choice.service));
    called.extend(model.tags.values().flat_map(|tag| tag.collected_by.iter().map(|(_, by)| by)));
    called.extend(
        model.expectations.iter().flat_map(|line| [&line.service, &line.met_by].into_iter().flatten()),
    );
    called.into_iter().cloned().collect()
}

/// Contracts that something asks for, that answer for those, and that these extend.
fn used_contracts<'m>(
    model: &Model,
    needs: &[&Need],
    meanings: impl Iterator<Item = &'m String>,
    view: &View<'_>,
) -> BTreeSet<String> {
    let mut asked: BTreeSet<String> = needs
        .iter()
        .filter_map(|need| match &need.aim {
            Aim::Contract(contract, _) | Aim::All(contract) => Some(contract.clone()),
            _ => None,
        })
        .collect();
    asked.extend(model.tags.values().flat_map(|tag| tag.contracts.clone()));
    asked.extend(model.expectations.iter().filter_map(|line| line.contract.clone()));
    asked.extend(meanings.cloned());
    let installed = model.definitions.iter().filter(|one| one.installed.is_some());
    asked.extend(installed.flat_map(|one| one.offers.clone()));
    let patterns: Vec<String> = asked.iter().filter_map(|contract| pattern(contract)).collect();
    asked.extend(patterns);
    let answers = |name: &&String| !view.with_bases(name).is_disjoint(&asked);
    let named = model.definitions.iter().flat_map(|one| &one.offers).chain(model.contracts.keys());
    let answering: Vec<&String> = named.filter(answers).collect();
    let bases = answering.into_iter().flat_map(|name| view.with_bases(name));
    bases.chain(asked.clone().iter().flat_map(|name| view.with_bases(name))).collect()
}

/// Modules that are missing, and those that are said to be used and are not.
fn uses(model: &Model, pairs: &BTreeSet<(String, String)>) -> BTreeSet<Key> {
    let mut found = BTreeSet::new();
    let modules = model.modules();
    for file in model.files.iter().filter(|file| file.uses_given) {
        let Some(from) = &file.module else { continue };
        for to in &file.uses {
            let subject = format!("{from} > {to}");
            if !modules.contains(to) {
                found.extend((!model.mentions(to)).then_some(("missing-module", subject)));
            } else if !pairs.contains(&(from.clone(), to.clone())) && !model.is_opaque() {
                found.insert(("unused-use", subject));
            }
        }
    }
    let is_there = |module: &&String| model.dormant.contains(*module) || modules.contains(module);
    let disabled = model.disabled.iter().filter(|module| !is_there(module) && !model.is_opaque());
    for module in disabled.filter(|module| !model.mentions(module)) {
        found.insert(("missing-module", format!("workspace > {module}")));
    }
    found
}

/// Modules of which the first writes a name of the second's, gets a service of it, or collects what it gives.
fn mentions(
    model: &Model,
    views: &[View<'_>],
    needs: &[&Need],
    counting: &[&super::model::Definition],
    meant: &[(Sought, usize, String)],
) -> BTreeSet<(String, String)> {
    let mut owners: BTreeSet<(&String, usize)> = BTreeSet::new();
    let mut written: BTreeSet<(usize, &String)> = BTreeSet::new();
    let mut collected: BTreeSet<(usize, String)> = BTreeSet::new();
    let all = |view: &View<'_>, contract: &str| -> Vec<String> {
        let offered = model.definitions.iter().flat_map(|one| &one.offers).cloned();
        offered.filter(|offer| view.with_bases(offer).contains(contract)).collect()
    };
    for one in &model.definitions {
        owners.insert((&one.id, one.file));
        owners.extend(one.offers.iter().map(|offer| (offer, one.file)));
        let links = [&one.alias_of, &one.like, &one.wraps, &one.replaces].into_iter().flatten();
        let names = links.chain(&one.offers).chain(one.tags.iter().map(|(tag, _)| tag));
        written.extend(names.map(|name| (one.file, name)));
    }
    for need in views[0].all_needs() {
        let name = match &need.aim {
            Aim::Service(name)
            | Aim::Contract(name, _)
            | Aim::All(name)
            | Aim::Tag(name)
            | Aim::Setting(name) => name,
            Aim::Wrapped => continue,
        };
        written.insert((need.file, name));
        if let Aim::Tag(tag) = &need.aim {
            owners.insert((tag, need.file));
        }
    }
    for need in needs {
        match &need.aim {
            Aim::Tag(tag) => collected.extend([(need.file, tag.clone())]),
            Aim::All(contract) => {
                collected.extend(all(&views[0], contract).into_iter().map(|name| (need.file, name)));
            }
            _ => {}
        }
    }
    for (name, said) in &model.contracts {
        owners.extend(said.iter().map(|said| (name, said.0)));
        written.extend(said.iter().flat_map(|said| said.1.iter().map(|base| (said.0, base))));
    }
    for (name, tag) in &model.tags {
        owners.extend(tag.files.iter().map(|&file| (name, file)));
        written.extend(tag.collected_by.iter().map(|(file, by)| (*file, by)));
        for (_, by) in &tag.collected_by {
            let by = model.definitions.iter().filter(|one| one.id == *by);
            collected.extend(by.map(|one| (one.file, name.clone())));
        }
    }
    for (file, contract) in model.tags.values().flat_map(|tag| &tag.said_contracts) {
        written.insert((*file, contract));
    }
    for setting in &model.settings {
        owners.insert((&setting.name, setting.file));
        let to = setting
            .value
            .iter()
            .flat_map(|value| &value.1)
            .chain(setting.stages.iter().flat_map(|value| &value.2));
        written.extend(to.map(|name| (setting.file, name)));
    }
    for provider in &model.providers {
        owners.insert((&provider.id, provider.file));
        let names = provider.after.iter().chain(provider.registers.iter().flatten());
        written.extend(names.map(|name| (provider.file, name)));
    }
    for choice in &model.choices {
        written.extend([&choice.contract, &choice.service].map(|name| (choice.file, name)));
    }
    for line in &model.expectations {
        let names = [&line.service, &line.contract, &line.met_by].into_iter().flatten();
        written.extend(names.map(|name| (line.file, name)));
    }
    written.extend(meant.iter().map(|(_, file, name)| (*file, name)));
    let unnamed = unread(model, &mut owners, &mut written);
    let mut pairs = BTreeSet::new();
    let mut add = |from: usize, to: usize| {
        if let (Some(from), Some(to)) = (model.module(from), model.module(to))
            && from != to
        {
            pairs.insert((from.clone(), to.clone()));
        }
    };
    for (from, name) in written {
        owners.iter().filter(|(owned, _)| *owned == name).for_each(|&(_, to)| add(from, to));
    }
    for (from, name) in &collected {
        let gives = |one: &&&super::model::Definition| {
            one.offers.contains(name) || one.tags.iter().any(|(tag, _)| tag == name)
        };
        counting.iter().filter(gives).for_each(|one| add(*from, one.file));
    }
    for (from, to) in views.iter().flat_map(gotten) {
        add(from, to);
    }
    (0..model.files.len()).for_each(|from| unnamed.iter().for_each(|&to| add(from, to)));
    pairs
}

/// Adds what stands in text that could not be read to what files own and write. Returns the files that own a name
/// which stands in such a file of no module: that may be of any.
fn unread<'m>(
    model: &'m Model,
    owners: &mut BTreeSet<(&'m String, usize)>,
    written: &mut BTreeSet<(usize, &'m String)>,
) -> Vec<usize> {
    let mut by_anyone: BTreeSet<&String> = BTreeSet::new();
    for (number, file) in model.files.iter().enumerate() {
        owners.extend(file.may_define.iter().map(|name| (name, number)));
        match file.module {
            Some(_) => written.extend(file.mentions.iter().map(|name| (number, name))),
            None => by_anyone.extend(&file.mentions),
        }
    }
    owners.iter().filter(|(name, _)| by_anyone.contains(name)).map(|(_, to)| *to).collect()
}

/// Files whose needs get a service, with the file of that.
fn gotten(view: &View<'_>) -> Vec<(usize, usize)> {
    let mut gotten = Vec::new();
    for node in view.holders() {
        for edge in view.edges(&node, false) {
            if let (Some(need), Node::Service(at)) = (edge.need, edge.to) {
                gotten.push((need.file, view.definition(at).file));
            }
        }
    }
    gotten
}

/// Ids that are apart only in letter case and separators, or in letters that look alike. What is installed into
/// one place, in letter case alone.
fn lookalikes(model: &Model) -> BTreeSet<Key> {
    let is_first = |at: &usize| {
        let id = &model.definitions[*at].id;
        model.definitions[..*at].iter().all(|other| other.id != *id)
    };
    let all = (0..model.definitions.len()).filter(is_first).map(|at| &model.definitions[at]);
    let (chosen, installed): (Vec<_>, Vec<_>) = all.partition(|one| one.installed.is_none());
    let ids: BTreeSet<&String> = chosen.iter().map(|one| &one.id).collect();
    let folded = |id: &str| id.replace(['-', '_'], ".").to_lowercase();
    let alike =
        |id: &str| id.replace(['0', 'O'], "o").replace(['1', 'I'], "l").replace("rn", "m").to_lowercase();
    let mut found = BTreeSet::new();
    let mut in_place: BTreeMap<(String, &Option<String>), BTreeSet<&str>> = BTreeMap::new();
    for one in installed {
        in_place.entry((one.id.to_lowercase(), &one.installed)).or_default().insert(&one.id);
    }
    let groups = in_place.into_values().filter(|group| group.len() > 1);
    let join = |group: BTreeSet<&str>| group.into_iter().collect::<Vec<_>>().join(" ~ ");
    found.extend(groups.map(|group| ("lookalike-id", join(group))));
    for fold in [&folded as &dyn Fn(&str) -> String, &alike] {
        let mut groups: BTreeMap<String, Vec<&str>> = BTreeMap::new();
        for id in &ids {
            groups.entry(fold(id)).or_default().push(id);
        }
        let groups = groups.into_values().filter(|group| group.len() > 1);
        found.extend(groups.map(|group| ("lookalike-id", group.join(" ~ "))));
    }
    found
}
