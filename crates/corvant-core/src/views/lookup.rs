//! What all views can look up: texts, places, what one index or name leads to.

use super::context::Context;
use super::dormant::DormantKind;
use super::doubts::Doubts;
use super::lacks::{Meaning, Use};
use crate::facts::{Many, Named, Need, Parts, Service};
use crate::finding::{Change, Fix};
use crate::graph::{Edge, Graph, Node, What};
use crate::name::Name;
use crate::resolve::Resolution;
use crate::source::{SourceIndex, Span};
use crate::wiring::ServiceIndex;
use crate::word::join_words;
use crate::wording::EditSort;

/// Look-ups, by index and by name.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Lookup<'a> {
    pub(super) context: &'a Context<'a>,
}

impl<'a> Lookup<'a> {
    /// What every need gets.
    pub(crate) fn resolution(self) -> &'a Resolution {
        &self.context.resolution
    }

    /// Who needs whom.
    pub(crate) fn graph(self) -> &'a Graph {
        &self.context.graph
    }

    /// What text that could not be read may hold.
    pub(crate) fn doubts(self) -> &'a Doubts {
        self.context.doubts
    }

    /// Whether a service whose needs nobody can know may need what a file defines.
    pub(crate) fn may_be_needed(self, source: SourceIndex) -> bool {
        self.context.doubts.may_be_needed(self.context.wiring, source)
    }

    /// The arrays that items hold ranges of.
    pub(crate) fn parts(self) -> &'a Parts {
        &self.context.wiring.facts.parts
    }

    /// A service definition.
    pub(crate) fn service(self, service: ServiceIndex) -> &'a Service {
        self.context.wiring.service(service)
    }

    /// The id of a service.
    pub(crate) fn id(self, service: ServiceIndex) -> &'a str {
        self.context.wiring.id(service)
    }

    /// The first definition of an id, in whatever stage.
    pub(crate) fn first_definition(self, id: Name) -> Option<ServiceIndex> {
        self.context.wiring.first_definition(id)
    }

    /// The need that makes an edge.
    pub(crate) fn need(self, edge: Edge) -> Option<&'a Need> {
        edge.need_in(self.context.wiring)
    }

    /// Whether the far end of an edge must be there before the near end is built.
    pub(crate) fn is_for_building(self, edge: Edge) -> bool {
        edge.is_for_building(self.context.wiring)
    }

    /// The text of a name.
    pub(crate) fn text(self, name: Name) -> &'a str {
        self.context.wiring.text(name)
    }

    /// What a service, an entry or a provider is called.
    pub(crate) fn name(self, node: Node) -> &'a str {
        let facts = &self.context.wiring.facts;
        match self.context.graph.what(node) {
            What::Service(service) => self.context.wiring.id(service),
            What::Entry(entry) => self.text(facts.entries[entry.index()].id.name),
            What::Provider(provider) => self.text(facts.providers[provider.index()].id.name),
            What::Tag(_) | What::All(_) | What::Question(_) => "",
        }
    }

    /// Where a service is defined, as `id (file:line)`, for help.
    pub(crate) fn whereabouts(self, service: ServiceIndex) -> String {
        let definition = self.context.wiring.service(service);
        format!(
            "{} ({})",
            self.context.wiring.id(service),
            self.address(definition.source, definition.id.span)
        )
    }

    /// A place as `file:line`.
    pub(crate) fn address(self, source: SourceIndex, span: Span) -> String {
        self.context.wiring.address(source, span)
    }

    /// Whether a file is in Corvant's own format.
    pub(crate) fn is_own(self, source: SourceIndex) -> bool {
        self.context.wiring.headers[source.index()].reader.is_none()
    }

    /// What an edit is called in a file: as `own` says if the file is in Corvant's own format, and else as its reader has it.
    pub(crate) fn say(
        self,
        source: SourceIndex,
        sort: EditSort,
        about: &str,
        own: impl FnOnce() -> String,
    ) -> String {
        let wiring = self.context.wiring;
        match wiring.headers[source.index()].reader {
            Some(reader) => wiring.policy.wording.say(wiring.text(reader), sort, about),
            None => own(),
        }
    }

    /// The fix where a disabled module has what is missing.
    pub(crate) fn dormant(self, kind: DormantKind, name: Name) -> Option<Fix> {
        let (source, named) = self.context.dormant.find(kind, name)?;
        let module = self.context.wiring.dormant_module(source)?;
        let place = format!("{} ({})", self.text(named.name), self.address(source, named.span));
        let what = if kind == DormantKind::Offer { "offers it" } else { "is in it" };
        let disabled = self.context.dormant.disabled(module).iter();
        let changes = disabled.map(|&(source, disabled)| Change::take_out(source, disabled.span));
        let title =
            format!("enable the module {}, which the workspace disables: {place} {what}", self.text(module));
        Some(Fix::likely(title, changes))
    }

    /// The fix of a name that is not known: what was meant, as `place` tells of it, wherever it is used.
    pub(crate) fn write(self, place: &str, uses: &[Use], name: Name, meant: Meaning) -> Fix {
        let places = uses.iter().map(|used| (used.source, used.span));
        let (from, to) = (self.text(name), self.text(meant.name));
        Fix::rename(format!("write {place}"), places, from, to, meant.likeness)
    }

    /// What stages a definition is limited to, in words.
    pub(crate) fn limits_of(self, service: &Service) -> String {
        let stages = self.stage_names(service.stages);
        let except = [self.stage_names(service.except), self.stage_names(service.kept_from)].concat();
        let only = match stages.len() {
            0 => "is in all stages".to_owned(),
            1 => format!("is limited to stage {}", stages[0]),
            _ => format!("is limited to stages {}", stages.join(", ")),
        };
        if except.is_empty() { only } else { format!("{only} but {}", except.join(", ")) }
    }

    fn stage_names(self, stages: Many<Named>) -> Vec<&'a str> {
        stages.of(&self.context.wiring.facts.parts).iter().map(|stage| self.text(stage.name)).collect()
    }

    /// Who seeks something, in words: `3 services and 1 entry need it`.
    pub(crate) fn seekers(self, uses: &[Use]) -> String {
        let mut nodes: Vec<_> =
            uses.iter().filter_map(|used| used.origin).map(|origin| origin.node).collect();
        nodes.sort_unstable();
        nodes.dedup();
        let count = |kind: fn(What) -> bool| {
            nodes.iter().filter(|&&node| kind(self.context.graph.what(node))).count()
        };
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
}

/// A number with its word, if there are any.
pub(crate) fn counted(count: usize, one: &str, many: &str) -> Option<String> {
    (count > 0).then(|| format!("{count} {}", if count == 1 { one } else { many }))
}
