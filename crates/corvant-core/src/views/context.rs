//! One stage of a wiring, or a part of it, with all that is worked out of it once: what the views show.

use super::clash::Clashes;
use super::dormant::Dormant;
use super::doubts::Doubts;
use super::focus::Focus;
use super::lacks::{Lack, Lacks};
use super::modules::{Crossings, ModuleCycles, ModuleNeeds};
use crate::facts::{Roster, Service, Tag};
use crate::graph::cycle_groups::{cycle_groups, cycle_groups_from};
use crate::graph::{Edge, Graph, Node};
use crate::name::Name;
use crate::resolve::Resolution;
use crate::wiring::{ServiceIndex, Wiring};
use crate::work;
use foldhash::HashSet;
use std::borrow::Cow;
use std::sync::{Arc, OnceLock};

/// What is worked out once for all stages.
#[derive(Debug)]
pub(crate) struct Aids {
    doubts: Doubts,
    dormant: Dormant,
    /// When it is first asked for.
    crossings: OnceLock<Crossings>,
}

impl Aids {
    pub(crate) fn new(wiring: &Wiring) -> Self {
        Self { doubts: Doubts::new(wiring), dormant: Dormant::new(wiring), crossings: OnceLock::new() }
    }
}

/// One stage of a wiring, resolved.
#[derive(Debug)]
pub(crate) struct Context<'a> {
    /// The wiring.
    pub(crate) wiring: &'a Wiring,
    /// What every need gets.
    pub(crate) resolution: Arc<Resolution>,
    /// Who needs whom.
    pub(crate) graph: Arc<Graph>,
    /// What is needed and not found.
    pub(crate) lacks: Lacks,
    pub(crate) doubts: &'a Doubts,
    pub(super) dormant: &'a Dormant,
    /// What modules need of one another, worked out when it is first asked for.
    crossings: &'a OnceLock<Crossings>,
    /// What they need with no stage chosen; the same.
    base_modules: Arc<OnceLock<ModuleNeeds>>,
    /// What `base_modules` is worked out from.
    base: Arc<Resolution>,
    /// What is to be looked at; `None`: everything.
    pub(super) focus: Option<&'a Focus>,
    all_cycle_groups: Arc<OnceLock<Vec<Vec<Node>>>>,
    /// Several services that claim one contract, or one key of it; the same.
    pub(super) clashes: Arc<OnceLock<Clashes>>,
}

impl<'a> Context<'a> {
    /// All of a stage.
    pub(crate) fn new(wiring: &'a Wiring, aids: &'a Aids, stage: Option<Name>) -> Self {
        let resolution = Resolution::new(wiring, stage);
        let nodes = Graph::without_edges(wiring, &resolution);
        let (graph, lacks) = rayon::join(
            || nodes.clone().with_edges(wiring, &resolution),
            || Lacks::new(wiring, &resolution, &nodes, &aids.doubts),
        );
        let (resolution, graph) = (Arc::new(resolution), Arc::new(graph));
        let base = resolution.clone();
        Self {
            wiring,
            resolution,
            graph,
            lacks,
            doubts: &aids.doubts,
            dormant: &aids.dormant,
            crossings: &aids.crossings,
            base_modules: Arc::default(),
            base,
            focus: None,
            all_cycle_groups: Arc::default(),
            clashes: Arc::default(),
        }
    }

    /// A part of a stage. What is lacked in `self` as well keeps its meaning.
    pub(crate) fn focused(&self, resolution: Arc<Resolution>, graph: Arc<Graph>, focus: &'a Focus) -> Self {
        let lacks = Lacks::focused(self.wiring, &resolution, &graph, self.doubts, focus, &self.lacks);
        let (base_modules, base) = (self.base_modules.clone(), self.base.clone());
        let (focus, all_cycle_groups, clashes) = (Some(focus), Arc::default(), Arc::default());
        Self { resolution, graph, lacks, base_modules, base, focus, all_cycle_groups, clashes, ..*self }
    }

    /// The services to look at.
    pub(super) fn services(&self) -> impl Iterator<Item = (ServiceIndex, &'a Service)> + use<'a> {
        let all = if self.focus.is_none() { self.wiring.facts.services.len() as u32 } else { 0 };
        let some = self.focus.map_or(&[][..], |focus| &focus.services);
        let wiring = self.wiring;
        work::count(all as usize + some.len());
        (0..all)
            .map(ServiceIndex)
            .chain(some.iter().copied())
            .map(move |index| (index, wiring.service(index)))
    }

    /// The services to look at, and with them the others that carry their tags: those are not looked at.
    pub(super) fn services_in_company(
        &self,
    ) -> impl Iterator<Item = (ServiceIndex, &'a Service, bool)> + use<'a> {
        let all = if self.focus.is_none() { self.wiring.facts.services.len() as u32 } else { 0 };
        let (wiring, focus) = (self.wiring, self.focus);
        let some = focus.map_or(&[][..], |focus| &focus.company);
        work::count(all as usize + some.len());
        (0..all).map(ServiceIndex).chain(some.iter().copied()).map(move |index| {
            let is_looked_at = focus.is_none_or(|focus| focus.services.binary_search(&index).is_ok());
            (index, wiring.service(index), is_looked_at)
        })
    }

    /// Lacks that nothing unread may explain.
    pub(super) fn certain_lacks(&self) -> impl Iterator<Item = &Lack> {
        self.lacks.all.iter().filter(|lack| lack.hidden_by.is_none())
    }

    /// The rosters that hold here, if they are to be looked at.
    pub(super) fn rosters(&self) -> impl Iterator<Item = &'a Roster> + use<'a> {
        let are_looked_at = self.focus.is_none_or(|focus| focus.roster);
        let wiring = self.wiring;
        let rosters = are_looked_at.then(|| wiring.rosters(self.resolution.stage));
        rosters.into_iter().flatten()
    }

    /// The tag declarations to look at.
    pub(super) fn tags(&self) -> impl Iterator<Item = &'a Tag> + use<'a> {
        let focus = self.focus;
        work::count(self.wiring.declared.tags.len());
        let is_looked_at = move |tag: &&Tag| focus.is_none_or(|focus| focus.tags.contains(&tag.tag.name));
        self.wiring.declared.tags.iter().filter(is_looked_at)
    }

    /// All cycle groups, over whatever edges but those of questions.
    pub(crate) fn all_cycle_groups(&self) -> &[Vec<Node>] {
        self.all_cycle_groups
            .get_or_init(|| cycle_groups(&self.graph, |node, _| !self.graph.is_question(node)))
    }

    /// The cycle groups to look at, over the edges that `keep` accepts: none of a question's.
    pub(super) fn cycle_groups(&self, keep: impl Fn(Node, Edge) -> bool) -> Vec<Vec<Node>> {
        let Some(focus) = self.focus else {
            // A cycle group of some edges lies in one of all edges.
            let members = || self.all_cycle_groups().iter().flatten().copied();
            let is_member: HashSet<Node> = members().collect();
            let keep = |node, edge: Edge| is_member.contains(&edge.node) && keep(node, edge);
            return if is_member.is_empty() {
                Vec::new()
            } else {
                cycle_groups_from(&self.graph, members(), keep)
            };
        };
        if !focus.has_cycle_groups {
            return Vec::new();
        }
        let mut starts: Vec<Node> = focus.nodes.iter().copied().collect();
        starts.sort_unstable();
        let mut cycle_groups = cycle_groups_from(&self.graph, starts.into_iter(), keep);
        cycle_groups.retain(|cycle_group| cycle_group.iter().any(|node| focus.nodes.contains(node)));
        cycle_groups
    }

    /// Needs of one module that another answers for, of whatever stage: ask [`Self::is_in_effect`].
    pub(crate) fn crossings(&self) -> &'a Crossings {
        self.crossings.get_or_init(|| Crossings::new(self.wiring))
    }

    /// Modules that need one another in a cycle, in order of their names, each cycle with the size of its cycle group.
    pub(crate) fn module_cycles(&self) -> Cow<'_, ModuleCycles> {
        let (wiring, crossings) = (self.wiring, self.crossings());
        let base = self.base_modules.get_or_init(|| ModuleNeeds::new(wiring, crossings, &self.base));
        let changed = self.focus.and_then(|focus| {
            crossings.changed_pairs(wiring, &base.pairs, &self.base, &self.resolution, &focus.services)
        });
        match changed {
            Some(changed) if base.has_other_cycles(&changed) => Cow::Owned(crossings.cycles(&changed)),
            _ => Cow::Borrowed(&base.cycles),
        }
    }
}
