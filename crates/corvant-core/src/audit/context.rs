//! What a rule's check looks at, and where it reports to.

use super::allow::Allowed;
use super::clashes::Clashes;
use super::dormant::{Dormant, DormantKind};
use super::doubts::Doubts;
use super::focus::Focus;
use super::lacks::{Lack, Lacks, Meaning, Use};
use super::modules::{Crossing, Crossings, ModuleCycles, ModuleNeeds};
use super::usage::Usage;
use crate::facts::{Roster, Service, Tag};
use crate::finding::{Change, Finding, Fix, Severity};
use crate::graph::cycle_groups::{cycle_groups, cycle_groups_from};
use crate::graph::{Edge, Graph, Node, What};
use crate::name::Name;
use crate::resolve::Resolution;
use crate::source::{SourceIndex, Span};
use crate::wiring::{ServiceIndex, Wiring};
use crate::work;
use foldhash::HashSet;
use std::borrow::Cow;
use std::sync::{Arc, OnceLock};

/// One stage of a wiring, resolved, for rules to look at.
#[derive(Debug)]
pub struct Context<'a> {
    /// The wiring.
    pub wiring: &'a Wiring,
    /// What every need gets.
    pub resolution: Arc<Resolution>,
    /// Who needs whom.
    pub graph: Arc<Graph>,
    /// What is needed and nobody has.
    pub lacks: Lacks,
    pub(crate) doubts: &'a Doubts,
    dormant: &'a Dormant,
    /// What modules need of one another, worked out when it is first asked for.
    crossings: &'a OnceLock<Crossings>,
    /// What they need with no stage chosen; the same.
    base_modules: Arc<OnceLock<ModuleNeeds>>,
    /// What `base_modules` is worked out from.
    base: Arc<Resolution>,
    /// What is to be looked at; `None`: everything.
    pub(super) focus: Option<&'a Focus>,
    all_cycle_groups: Arc<OnceLock<Vec<Vec<Node>>>>,
    clashes: Arc<OnceLock<Clashes>>,
    usage: Option<&'a Usage>,
    allowed: Option<&'a Allowed>,
}

impl<'a> Context<'a> {
    /// All of a stage.
    pub(super) fn new(
        wiring: &'a Wiring,
        (doubts, dormant, crossings): (&'a Doubts, &'a Dormant, &'a OnceLock<Crossings>),
        stage: Option<Name>,
    ) -> Self {
        let resolution = Resolution::new(wiring, stage);
        let nodes = Graph::without_edges(wiring, &resolution);
        let (graph, lacks) = rayon::join(
            || nodes.clone().with_edges(wiring, &resolution),
            || Lacks::new(wiring, &resolution, &nodes, doubts),
        );
        let (resolution, graph) = (Arc::new(resolution), Arc::new(graph));
        let base = resolution.clone();
        Self {
            wiring,
            resolution,
            graph,
            lacks,
            doubts,
            dormant,
            crossings,
            base_modules: Arc::default(),
            base,
            focus: None,
            all_cycle_groups: Arc::default(),
            clashes: Arc::default(),
            usage: None,
            allowed: None,
        }
    }

    /// A part of a stage. What is lacked in `self` as well keeps its meaning.
    pub(super) fn focused(&self, resolution: Arc<Resolution>, graph: Arc<Graph>, focus: &'a Focus) -> Self {
        let lacks = Lacks::focused(self.wiring, &resolution, &graph, self.doubts, (focus, &self.lacks));
        let (base_modules, base) = (self.base_modules.clone(), self.base.clone());
        let (focus, all_cycle_groups, clashes) = (Some(focus), Arc::default(), Arc::default());
        Self { resolution, graph, lacks, base_modules, base, focus, all_cycle_groups, clashes, ..*self }
    }

    /// The services to look at.
    pub fn services(&self) -> impl Iterator<Item = (ServiceIndex, &'a Service)> + use<'a> {
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
    pub fn services_in_company(&self) -> impl Iterator<Item = (ServiceIndex, &'a Service, bool)> + use<'a> {
        let all = if self.focus.is_none() { self.wiring.facts.services.len() as u32 } else { 0 };
        let (wiring, focus) = (self.wiring, self.focus);
        let some = focus.map_or(&[][..], |focus| &focus.company);
        work::count(all as usize + some.len());
        (0..all).map(ServiceIndex).chain(some.iter().copied()).map(move |index| {
            let is_looked_at = focus.is_none_or(|focus| focus.services.binary_search(&index).is_ok());
            (index, wiring.service(index), is_looked_at)
        })
    }

    /// Whether everything is to be looked at.
    pub(crate) fn is_whole(&self) -> bool {
        self.focus.is_none()
    }

    /// Whether values of settings may differ from those with no stage chosen.
    pub(crate) fn looks_at_settings(&self) -> bool {
        self.focus.is_none_or(|focus| !focus.settings.is_empty())
    }

    /// The rosters that hold here, if they are to be looked at.
    pub fn rosters(&self) -> impl Iterator<Item = &'a Roster> + use<'a> {
        let are_looked_at = self.focus.is_none_or(|focus| focus.roster);
        let wiring = self.wiring;
        let rosters = are_looked_at.then(|| wiring.rosters(self.resolution.stage));
        rosters.into_iter().flatten()
    }

    /// The tag declarations to look at.
    pub fn tags(&self) -> impl Iterator<Item = &'a Tag> + use<'a> {
        let focus = self.focus;
        work::count(self.wiring.declared.tags.len());
        let is_looked_at = move |tag: &&Tag| focus.is_none_or(|focus| focus.tags.contains(&tag.tag.name));
        self.wiring.declared.tags.iter().filter(is_looked_at)
    }

    /// Several services that claim one contract, or one key of it, and nothing that decides.
    pub(crate) fn clashes(&self) -> &Clashes {
        self.clashes.get_or_init(|| Clashes::new(self))
    }

    /// All cycle groups, over whatever edges but those of questions.
    pub(super) fn all_cycle_groups(&self) -> &[Vec<Node>] {
        self.all_cycle_groups
            .get_or_init(|| cycle_groups(&self.graph, |node, _| !self.graph.is_question(node)))
    }

    /// The cycle groups to look at, over the edges that `keep` accepts: none of a question's.
    pub fn cycle_groups(&self, keep: impl Fn(Node, Edge) -> bool) -> Vec<Vec<Node>> {
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

    /// The same, with what is used in any stage.
    pub(super) fn with_usage(self, usage: &'a Usage) -> Self {
        Self { usage: Some(usage), ..self }
    }

    /// The same, with what allowances accepted.
    pub(super) fn with_allowed(self, allowed: &'a Allowed) -> Self {
        Self { allowed: Some(allowed), ..self }
    }

    /// What allowances accepted; for the rule on allowances.
    pub(crate) fn allowed(&self) -> Option<&Allowed> {
        self.allowed
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
            let before = (&base.pairs, self.base.as_ref());
            crossings.changed_pairs(wiring, before, &self.resolution, &focus.services)
        });
        match changed {
            Some(changed) if base.has_other_cycles(&changed) => Cow::Owned(crossings.cycles(&changed)),
            _ => Cow::Borrowed(&base.cycles),
        }
    }

    /// Whether the one that has a need is there in this stage, or may be.
    pub(crate) fn is_in_effect(&self, crossing: &Crossing) -> bool {
        crossing.is_in_effect(self.wiring, &self.resolution)
    }

    /// What is used in any stage; for rules that look at the whole workspace.
    pub(crate) fn usage(&self) -> Option<&Usage> {
        self.usage
    }

    /// The text of a name.
    pub fn text(&self, name: Name) -> &'a str {
        self.wiring.text(name)
    }

    /// What a service, an entry or a provider is called.
    pub(crate) fn name(&self, node: Node) -> &'a str {
        let facts = &self.wiring.facts;
        match self.graph.what(node) {
            What::Service(service) => self.wiring.id(service),
            What::Entry(entry) => self.text(facts.entries[entry as usize].id.name),
            What::Provider(provider) => self.text(facts.providers[provider as usize].id.name),
            What::Tag(_) | What::All(_) | What::Question(_) => "",
        }
    }

    /// Where a service is defined, as `id (file:line)`, for help.
    pub fn whereabouts(&self, service: ServiceIndex) -> String {
        let definition = self.wiring.service(service);
        format!("{} ({})", self.wiring.id(service), self.address(definition.source, definition.id.span))
    }

    /// A place as `file:line`.
    pub fn address(&self, source: SourceIndex, span: Span) -> String {
        self.wiring.address(source, span)
    }

    /// The fix where a disabled module has what is missing.
    pub fn dormant(&self, kind: DormantKind, name: Name) -> Option<Fix> {
        let (source, named) = self.dormant.find(kind, name)?;
        let module = self.wiring.dormant_module(source)?;
        let place = format!("{} ({})", self.text(named.name), self.address(source, named.span));
        let what = if kind == DormantKind::Offer { "offers it" } else { "is in it" };
        let disabled = self.wiring.facts.disabled.iter().filter(|(_, disabled)| disabled.name == module);
        let changes = disabled.map(|&(source, disabled)| Change::take_out(source, disabled.span));
        let title =
            format!("enable the module {}, which the workspace disables: {place} {what}", self.text(module));
        Some(Fix::likely(title, changes))
    }

    /// The fix of a name that is not known: what was meant, as `place` tells of it, wherever it is used.
    pub(crate) fn write(&self, place: &str, uses: &[Use], name: Name, meant: Meaning) -> Fix {
        let places = uses.iter().map(|used| (used.source, used.span));
        let texts = (self.text(name), self.text(meant.name));
        Fix::rename(format!("write {place}"), places, texts, meant.likeness)
    }

    /// The stages that a definition is limited to, in words.
    pub fn stages_of(&self, service: &Service) -> String {
        let stages = service.stages.of(&self.wiring.facts.parts);
        let names: Vec<&str> = stages.iter().map(|stage| self.text(stage.name)).collect();
        format!("{} {}", if names.len() == 1 { "stage" } else { "stages" }, names.join(", "))
    }

    /// Who seeks something, in words: `3 services and 1 entry need it`.
    pub fn seekers(&self, uses: &[Use]) -> String {
        let mut nodes: Vec<_> =
            uses.iter().filter_map(|used| used.origin).map(|origin| origin.node).collect();
        nodes.sort_unstable();
        nodes.dedup();
        let count =
            |kind: fn(What) -> bool| nodes.iter().filter(|&&node| kind(self.graph.what(node))).count();
        let counts = [
            counted(count(|what| matches!(what, What::Service(_))), "service", "services"),
            counted(count(|what| matches!(what, What::Entry(_))), "entry", "entries"),
            counted(count(|what| matches!(what, What::Provider(_))), "provider", "providers"),
        ];
        let counts: Vec<String> = counts.into_iter().flatten().collect();
        match (counts.as_slice(), nodes.len()) {
            ([], _) => "the wiring names it".to_owned(),
            (counts, 1) => format!("{} needs it", counts.join(", ")),
            (counts, _) => format!("{} need it", join_words(counts)),
        }
    }

    /// Lacks that nothing unread may explain.
    pub fn certain_lacks(&self) -> impl Iterator<Item = &Lack> {
        self.lacks.all.iter().filter(|lack| lack.hidden_by.is_none())
    }
}

/// A number with its word, if there are any.
pub(super) fn counted(count: usize, one: &str, many: &str) -> Option<String> {
    (count > 0).then(|| format!("{count} {}", if count == 1 { one } else { many }))
}

/// `a, b and c`.
pub fn join_words(words: &[impl AsRef<str>]) -> String {
    let words: Vec<&str> = words.iter().map(AsRef::as_ref).collect();
    match words.split_last() {
        None => String::new(),
        Some((last, [])) => (*last).to_owned(),
        Some((last, before)) => format!("{} and {last}", before.join(", ")),
    }
}

/// Where rules report to.
#[derive(Debug, Default)]
pub struct Sink {
    pub(super) findings: Vec<Finding>,
}

impl Sink {
    /// How many findings were reported.
    pub(crate) fn len(&self) -> usize {
        self.findings.len()
    }

    /// Gives the findings reported since there were `before` another severity.
    pub(crate) fn soften(&mut self, before: usize, severity: Severity) {
        for finding in &mut self.findings[before..] {
            finding.severity = severity;
        }
    }

    /// Gives all findings the severity that the workspace decides in place of their rule's own. What the rule
    /// itself took for milder stays so.
    pub(super) fn grade(&mut self, own: Severity, decided: Severity) {
        for finding in &mut self.findings {
            finding.severity = if finding.severity == own { decided } else { finding.severity.max(decided) };
        }
    }

    /// Reports a finding.
    pub fn report(&mut self, finding: Finding) {
        self.findings.push(finding);
    }
}

impl Finding {
    /// With a place, an origin and a role for each use.
    #[must_use]
    pub(crate) fn used_by(mut self, uses: &[Use]) -> Self {
        self.origins.extend(uses.iter().filter_map(|used| used.origin));
        for used in uses {
            self = self.at(used.source, used.span, used.role.clone());
        }
        self
    }
}
