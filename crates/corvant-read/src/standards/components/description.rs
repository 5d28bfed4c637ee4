//! Component descriptions: the XML that a bundle's `Service-Component` lists, of all schema versions.

use super::filter::Filter;
use crate::syntax::{NodeId, NodeKind, SyntaxError, Tree, xml};
use corvant_core::facts::{Facts, Many, Named, Need, Service, Target, Trouble, TroubleKind, Via};
use corvant_core::finding::Fix;
use corvant_core::name::Interner;
use corvant_core::source::{Source, SourceIndex, Span};

/// The beginning of the namespaces of all versions; the first version allowed for none.
pub(super) const NAMESPACE: &str = "http://www.osgi.org/xmlns/scr/";

/// The name of a property, in lower case, and its values.
pub(crate) type Property = (String, Vec<String>);

/// What is known of a component beside its facts.
#[derive(Debug)]
pub(crate) struct Component {
    /// Its number among the services of the file.
    pub(crate) service: usize,
    pub(crate) name: String,
    pub(crate) interfaces: Vec<String>,
    pub(crate) properties: Vec<Property>,
    /// Where its ranking is written.
    pub(crate) ranking: Option<(i64, Span)>,
    /// Whether a configuration may give it other properties while the system runs.
    pub(crate) is_configurable: bool,
    pub(crate) references: Vec<ComponentReference>,
}

/// What is known of a reference beside its need.
#[derive(Debug)]
pub(crate) struct ComponentReference {
    /// Its number among the needs of the file.
    pub(crate) need: usize,
    pub(crate) interface: String,
    pub(crate) filter: Option<(Filter, String)>,
    pub(crate) takes_one: bool,
    pub(crate) is_optional: bool,
}

/// The facts of a description, and what there is to know of its components.
pub(crate) fn read(
    source: &Source,
    bundle: &str,
    interner: &Interner,
) -> Result<(Facts, Vec<Component>), SyntaxError> {
    let tree = xml::parse(&source.text)?;
    let mut reader = ComponentReader {
        tree: &tree,
        interner,
        installed: interner.intern(bundle),
        facts: Facts::default(),
        components: Vec::new(),
    };
    for element in components(&tree) {
        reader.component(element);
    }
    Ok((reader.facts, reader.components))
}

/// The elements that describe components, wherever they stand in the document.
fn components(tree: &Tree<'_>) -> Vec<NodeId> {
    let mut found = Vec::new();
    let Some((name, root)) = tree.root().and_then(|root| tree.fields(root).next()) else { return found };
    // Name, element, and the prefixes that are bound to the namespace around it.
    let mut waiting = vec![(tree.text(name), root, Vec::<String>::new(), true)];
    while let Some((name, element, mut bound, is_root)) = waiting.pop() {
        for (key, value) in tree.fields(element).filter(|(key, _)| tree.text(*key).starts_with("@xmlns")) {
            let prefix = tree.text(key).trim_start_matches("@xmlns").trim_start_matches(':').to_owned();
            bound.retain(|known| *known != prefix);
            if tree.text(value).starts_with(NAMESPACE) {
                bound.push(prefix);
            }
        }
        let (prefix, local) = name.split_once(':').unwrap_or(("", name));
        if local == "component" && (bound.iter().any(|known| known == prefix) || is_root && prefix.is_empty())
        {
            found.push(element);
            continue;
        }
        let children: Vec<_> =
            tree.fields(element).filter(|(_, list)| tree.kind(*list) == NodeKind::List).collect();
        for (key, list) in children {
            let below = tree.children(list).map(|child| (tree.text(key), child, bound.clone(), false));
            waiting.extend(below);
        }
    }
    found.sort_by_key(|element| element.index());
    found
}

struct ComponentReader<'a> {
    tree: &'a Tree<'a>,
    interner: &'a Interner,
    installed: corvant_core::name::Name,
    facts: Facts,
    components: Vec<Component>,
}

/// How many services a reference takes, and whether it takes none.
const CARDINALITIES: [(&str, bool, bool); 4] =
    [("0..1", true, true), ("0..n", false, true), ("1..1", true, false), ("1..n", false, false)];

impl<'a> ComponentReader<'a> {
    fn attribute(&self, element: NodeId, name: &str) -> Option<NodeId> {
        let tree = self.tree;
        let is_it = |key: NodeId| tree.text(key).strip_prefix('@').is_some_and(|known| known == name);
        tree.fields(element).find(|(key, _)| is_it(*key)).map(|(_, value)| value)
    }

    fn text(&self, element: NodeId, name: &str) -> Option<&'a str> {
        let tree = self.tree;
        self.attribute(element, name).map(|value| tree.text(value))
    }

    fn children(&self, element: NodeId, name: &str) -> Vec<NodeId> {
        let tree = self.tree;
        let is_it = |key: NodeId| tree.text(key).rsplit(':').next() == Some(name);
        let lists =
            tree.fields(element).filter(|(key, value)| is_it(*key) && tree.kind(*value) == NodeKind::List);
        lists.flat_map(|(_, list)| tree.children(list)).collect()
    }

    fn named(&self, value: NodeId) -> Named {
        Named { name: self.interner.intern(self.tree.text(value)), span: self.tree.span(value) }
    }

    fn wrong(&mut self, subject: &str, at: NodeId, message: String, help: Option<String>) {
        // An element is long: its beginning says where it is.
        let span = self.tree.span(at);
        let written = self.tree.source_of(at);
        let end = written.find(['\n', '\r']).map_or(span.end, |at| span.start + at as u32);
        let at = (Span { start: span.start, end }, "here");
        let trouble = Trouble::new(TroubleKind::WrongShape, subject, message, at);
        self.facts.report(Trouble { fixes: help.map(Fix::advice).into_iter().collect(), ..trouble });
    }

    fn component(&mut self, element: NodeId) {
        let implementation = self.children(element, "implementation").first().copied();
        let class = implementation.and_then(|implementation| self.attribute(implementation, "class"));
        let Some(class) = class else {
            let name = self.text(element, "name").unwrap_or("component").to_owned();
            let message = "the component has no implementation class, so it is never activated".to_owned();
            return self.wrong(&format!("{name}.implementation"), element, message, None);
        };
        let id = self.named(self.attribute(element, "name").unwrap_or(class));
        let name = self.tree.text(self.attribute(element, "name").unwrap_or(class)).to_owned();
        let mut service = Service::new(id);
        service.type_name = Some(self.named(class));
        service.of_standard.installed = Some(self.installed);
        service.needs_given = true;
        let provided: Vec<NodeId> = self
            .children(element, "service")
            .into_iter()
            .flat_map(|service| self.children(service, "provide"))
            .filter_map(|provide| self.attribute(provide, "interface"))
            .collect();
        let start = self.facts.parts.named.len();
        let offers: Vec<Named> = provided.iter().map(|&interface| self.named(interface)).collect();
        self.facts.parts.named.extend(offers);
        service.offers = Many::since(start, &self.facts.parts);
        let policy = self.text(element, "configuration-policy").unwrap_or("optional");
        if !["optional", "require", "ignore"].contains(&policy) {
            let at = self.attribute(element, "configuration-policy").unwrap_or(element);
            let message = format!("a configuration policy is optional, require or ignore, not {policy}");
            self.wrong(&format!("{name}.configuration-policy"), at, message, None);
        }
        let (properties, ranking) = self.properties(element);
        let start = self.facts.parts.needs.len();
        let references = self.references(element, &name);
        service.needs = Many::since(start, &self.facts.parts);
        self.components.push(Component {
            service: self.facts.services.len(),
            name,
            interfaces: provided.iter().map(|&interface| self.tree.text(interface).to_owned()).collect(),
            properties,
            ranking,
            is_configurable: policy != "ignore" || !self.children(element, "properties").is_empty(),
            references,
        });
        self.facts.services.push(service);
    }

    fn properties(&self, element: NodeId) -> (Vec<Property>, Option<(i64, Span)>) {
        let mut properties = Vec::new();
        let mut ranking = None;
        for property in self.children(element, "property") {
            let Some(name) = self.text(property, "name") else { continue };
            let written = self.attribute(property, "value").or_else(|| {
                self.tree
                    .fields(property)
                    .find(|(key, _)| self.tree.text(*key) == "#text")
                    .map(|(_, text)| text)
            });
            let text = written.map_or("", |value| self.tree.text(value));
            let values: Vec<String> = text.lines().map(|line| line.trim().to_owned()).collect();
            if let (Some(written), Ok(rank)) = (written, text.trim().parse())
                && name == "service.ranking"
            {
                ranking = Some((rank, self.tree.span(written)));
            }
            properties.push((name.to_lowercase(), values));
        }
        (properties, ranking)
    }

    fn references(&mut self, element: NodeId, component: &str) -> Vec<ComponentReference> {
        let mut references = Vec::new();
        for reference in self.children(element, "reference") {
            let Some(interface) = self.attribute(reference, "interface") else {
                let message = "the reference names no interface".to_owned();
                self.wrong(&format!("{component}.reference"), reference, message, None);
                continue;
            };
            let slot = self.attribute(reference, "name").unwrap_or(interface);
            let path = format!("{component}.{}", self.tree.text(slot));
            let (takes_one, is_optional) = self.cardinality(reference, &path);
            let policy = self.text(reference, "policy").unwrap_or("static");
            if !["static", "dynamic"].contains(&policy) {
                let at = self.attribute(reference, "policy").unwrap_or(reference);
                let message = format!("a policy is static or dynamic, not {policy}");
                self.wrong(&format!("{path}.policy"), at, message, None);
            }
            let filter = self.filter(reference, &path);
            let name = self.interner.intern(self.tree.text(interface));
            references.push(ComponentReference {
                need: self.facts.parts.needs.len(),
                interface: self.tree.text(interface).to_owned(),
                filter,
                takes_one,
                is_optional,
            });
            self.facts.parts.needs.push(Need {
                source: SourceIndex::default(),
                slot: self.named(slot),
                target: if takes_one { Target::Contract(name) } else { Target::All(name) },
                span: self.tree.span(interface),
                key: None,
                // Bound before the component is activated, however it is handed over.
                via: Via::Constructor,
                method: None,
                optional: is_optional,
                // A component that can do without is activated without it, and a cycle through it opens.
                lazy: is_optional,
                by_type: false,
                is_repeated: false,
                registered_before: Need::UNORDERED,
            });
        }
        references
    }

    fn cardinality(&mut self, reference: NodeId, path: &str) -> (bool, bool) {
        let written = self.attribute(reference, "cardinality");
        let text = written.map_or("1..1", |written| self.tree.text(written));
        if let Some(&(_, takes_one, is_optional)) = CARDINALITIES.iter().find(|(word, ..)| *word == text) {
            return (takes_one, is_optional);
        }
        let message = format!("a cardinality is one of 0..1, 0..n, 1..1, 1..n, not {text}");
        self.wrong(&format!("{path}.cardinality"), written.unwrap_or(reference), message, None);
        (true, true)
    }

    fn filter(&mut self, reference: NodeId, path: &str) -> Option<(Filter, String)> {
        let target = self.attribute(reference, "target")?;
        let text = self.tree.text(target);
        match Filter::parse(text) {
            Ok(filter) => Some((filter, text.to_owned())),
            Err(reason) => {
                let message = format!("the target {text} is no filter: {reason}");
                let help = (!text.starts_with('(')).then(|| format!("write ({text})"));
                self.wrong(&format!("{path}.target"), target, message, help);
                None
            }
        }
    }
}
