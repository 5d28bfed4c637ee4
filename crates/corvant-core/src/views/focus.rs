//! What has to be looked at again in a stage; all else is as it is with no stage chosen.
//!
//! A rule that looks at its focus alone is run on both wirings, that of the stage and that with none chosen:
//! what it then finds in the one and not in the other is what the stage changes.

use super::references::missing_references;
use crate::facts::Target;
use crate::graph::cycle_groups::cycle_groups_from;
use crate::graph::{Edge, Graph, Node, What};
use crate::name::Name;
use crate::resolve::{Met, Resolution, StageChange, StageIndex, Value, pattern};
use crate::wiring::{NeedIndex, ServiceIndex, Wiring, needs_of};
use foldhash::HashSet;

/// What a stage may find differently, in order.
#[derive(Debug)]
pub(crate) struct Focus {
    /// Services that are changed, or need, carry or offer what is.
    pub(super) services: Vec<ServiceIndex>,
    /// All carriers of the tags that those carry and that say something of attributes.
    pub(super) company: Vec<ServiceIndex>,
    /// Entries and providers that need what is changed.
    pub(super) others: Vec<Node>,
    /// Tags with other carriers.
    pub(super) tags: HashSet<Name>,
    /// Settings with other values, by number in the facts.
    pub(super) settings: Vec<u32>,
    /// Whether another roster holds.
    pub(super) roster: bool,
    /// Nodes from which cycle groups are looked for: those above and the members of the cycle groups they are in.
    pub(super) nodes: HashSet<Node>,
    /// Whether any of them is in a cycle group, here or with no stage chosen.
    pub(super) has_cycle_groups: bool,
}

impl Focus {
    pub(crate) fn new(
        wiring: &Wiring,
        index: &StageIndex,
        change: &StageChange,
        base: &Resolution,
        base_cycle_groups: &[Vec<Node>],
        here: &Resolution,
        graph: &Graph,
    ) -> Self {
        // All who seek what is lacking are told in the same finding.
        let mut holders = change.holders.clone();
        let mut settings: HashSet<u32> = change.settings.iter().copied().collect();
        for name in index.with_aliases(sought(wiring, change, [base, here])) {
            holders.extend(index.speakers_of(name));
            settings.extend(index.referrers_of(name));
        }
        let mut settings: Vec<u32> = settings.into_iter().collect();
        settings.sort_unstable();
        let mut services = change.services.clone();
        let mut others = Vec::new();
        for &node in &holders {
            match graph.what(node) {
                What::Service(service) => services.push(service),
                _ => others.push(node),
            }
        }
        services.extend(change.tags.iter().flat_map(|&tag| here.carriers_anywhere(tag)));
        // Who may answer for what has changed: itself, through a narrower contract, or by its pattern.
        // And who claims what is asked only here, or no longer: the clash behind a question has to be seen with it.
        let mut contracts = questioned(wiring, [base, here], &services, &others);
        contracts.extend(&change.contracts);
        let patterns: Vec<Name> =
            contracts.iter().filter_map(|&contract| pattern(wiring, contract)).collect();
        contracts.extend(patterns);
        let narrower = here.with_narrower(contracts).into_iter();
        services.extend(narrower.flat_map(|contract| here.offering_anywhere(contract)));
        services.sort_unstable();
        services.dedup();
        others.sort_unstable();
        others.dedup();
        let mut nodes: HashSet<Node> = services.iter().map(|&service| Graph::service(service)).collect();
        nodes.extend(&others);
        nodes.extend(change.tags.iter().filter_map(|&tag| graph.tag(tag)));
        nodes.extend(change.contracts.iter().filter_map(|&contract| graph.all(contract)));
        let starts = nodes.iter().copied();
        let any = |node: Node, _: Edge| !graph.is_question(node);
        let cycle_groups =
            cycle_groups_from(graph, starts, any).into_iter().chain(base_cycle_groups.iter().cloned());
        let is_touched = |cycle_group: &Vec<Node>| cycle_group.iter().any(|node| nodes.contains(node));
        let touched: Vec<Node> = cycle_groups.filter(is_touched).flatten().collect();
        let has_cycle_groups = !touched.is_empty();
        nodes.extend(touched);
        let company = company(wiring, base, &services);
        let (tags, roster) = (change.tags.clone(), change.roster);
        Self { services, company, others, tags, settings, roster, nodes, has_cycle_groups }
    }
}

/// Contracts of which some services and other nodes ask what nothing settles, here or with no stage chosen.
fn questioned(
    wiring: &Wiring,
    resolutions: [&Resolution; 2],
    services: &[ServiceIndex],
    others: &[Node],
) -> HashSet<Name> {
    // Mostly there is no such question anywhere.
    let resolutions = resolutions.into_iter().filter(|resolution| !resolution.ambiguous.is_empty());
    let asked = resolutions.flat_map(|resolution| {
        let nodes = services.iter().map(|&service| Node::from(service)).chain(others.iter().copied());
        let needs = nodes.flat_map(|node| needs_of(wiring, node)).flatten();
        needs.filter_map(|need| match resolution.met(NeedIndex(need as u32)) {
            Met::Ambiguous(question) => Some(resolution.ambiguous[question.index()].contract),
            _ => None,
        })
    });
    asked.collect()
}

/// What is lacking, here or with no stage chosen, and sought by what is changed: needed or named by services,
/// referred to by settings, or at the end of aliases that others need.
fn sought(wiring: &Wiring, change: &StageChange, resolutions: [&Resolution; 2]) -> HashSet<Name> {
    let facts = &wiring.facts;
    let mut sought: HashSet<Name> = HashSet::default();
    for resolution in resolutions {
        for &service in &change.services {
            let missing = missing_references(wiring, resolution, wiring.service(service));
            sought.extend(missing.into_iter().map(|(named, _)| named.name));
            lacked(wiring, resolution, service.into(), |name, end| {
                sought.extend([name].into_iter().chain(end));
            });
        }
        for &holder in &change.holders {
            // Others who need the same name hold it too; only behind an alias it is another name.
            lacked(wiring, resolution, holder, |_, end| sought.extend(end));
        }
        let declared = change.settings.iter().map(|&number| &facts.settings[number as usize]);
        let referred = declared.flat_map(|setting| {
            let values = setting.stages.of(&facts.parts).iter().map(|value| value.references);
            values.chain([setting.references]).flat_map(|names| names.of(&facts.parts))
        });
        let is_lacking = |&name: &Name| resolution.setting(name).is_none_or(|value| value == Value::Absent);
        sought.extend(referred.map(|named| named.name).filter(is_lacking));
    }
    sought
}

/// Tells what the needs of something lack, each with what that comes to behind its aliases.
fn lacked(wiring: &Wiring, resolution: &Resolution, node: Node, mut tell: impl FnMut(Name, Option<Name>)) {
    for need in needs_of(wiring, node).into_iter().flatten() {
        match resolution.met(NeedIndex(need as u32)) {
            Met::Missing | Met::MissingKey | Met::Ambiguous(_) => {}
            _ => continue,
        }
        match wiring.facts.parts.needs[need].target {
            Target::Service(name) => tell(name, resolution.ids.dead_end(name)),
            Target::Contract(name) | Target::All(name) | Target::Setting(name) => tell(name, None),
            Target::Tag(_) | Target::Wrapped => {}
        }
    }
}

fn company(wiring: &Wiring, resolution: &Resolution, services: &[ServiceIndex]) -> Vec<ServiceIndex> {
    let facts = &wiring.facts;
    let ruled = wiring.declared.tags.iter().filter(|tag| tag.attributes.is_some()).map(|tag| tag.tag.name);
    let ruled: HashSet<Name> = ruled.collect();
    let taggings = services.iter().flat_map(|&service| wiring.service(service).taggings.of(&facts.parts));
    let tags: HashSet<Name> =
        taggings.map(|tagging| tagging.tag.name).filter(|tag| ruled.contains(tag)).collect();
    let carriers = tags.iter().flat_map(|&tag| resolution.carriers_anywhere(tag)).copied();
    let mut company: Vec<ServiceIndex> = services.iter().copied().chain(carriers).collect();
    company.sort_unstable();
    company.dedup();
    company
}
