//! The same manifests in other syntaxes than YAML.

use corvant_read::syntax::{NodeId, NodeKind, Tree, yaml};
use serde_json::{Map, Value};
use std::fmt::Write;

/// What a manifest in YAML says; `None`: it is broken, or says nothing.
pub fn value(yaml: &str) -> Option<Value> {
    let tree = yaml::parse(yaml).ok()?;
    Some(of_node(&tree, tree.root()?))
}

/// The same in JSON, laid out as people have it.
pub fn as_json(manifest: &Value) -> String {
    format!("{manifest:#}\n")
}

/// Files in which every manifest that can be read is in another syntax, with the ending for it.
pub fn rewritten(
    files: Vec<(String, String)>,
    ending: &str,
    write: fn(&Value) -> String,
) -> Vec<(String, String)> {
    let one = |(path, text): (String, String)| {
        let manifest = value(&text).filter(Value::is_object);
        match (path.strip_suffix(".wiring.yaml"), manifest) {
            (Some(name), Some(manifest)) => (format!("{name}.wiring.{ending}"), write(&manifest)),
            _ => (path, text),
        }
    };
    files.into_iter().map(one).collect()
}

fn of_node(tree: &Tree<'_>, node: NodeId) -> Value {
    match tree.kind(node) {
        NodeKind::Map => {
            let fields =
                tree.fields(node).map(|(key, value)| (tree.text(key).to_owned(), of_node(tree, value)));
            Value::Object(fields.collect::<Map<_, _>>())
        }
        NodeKind::List => tree.children(node).map(|item| of_node(tree, item)).collect(),
        NodeKind::Text => tree.text(node).into(),
        NodeKind::Null => Value::Object(Map::new()),
        _ => serde_json::from_str(tree.text(node)).unwrap_or_else(|_| tree.text(node).into()),
    }
}

/// Sections as tables, and what is in a section in one line each, as people write it.
pub fn as_toml(manifest: &Value) -> String {
    let mut text = String::new();
    let fields = || manifest.as_object().into_iter().flatten();
    for (name, value) in fields().filter(|(_, value)| !value.is_object()) {
        writeln!(text, "{name} = {}", inline(value)).expect("writing to a String");
    }
    for (name, section) in fields().filter(|(_, value)| value.is_object()) {
        writeln!(text, "\n[{name}]").expect("writing to a String");
        for (id, value) in section.as_object().into_iter().flatten() {
            writeln!(text, "{id:?} = {}", inline(value)).expect("writing to a String");
        }
    }
    text
}

/// In lines, each with what it belongs to above it, as people write it.
pub fn as_yaml(manifest: &Value) -> String {
    let mut text = String::new();
    let mut waiting = vec![(String::new(), manifest, 0)];
    while let Some((head, value, depth)) = waiting.pop() {
        let indent = "  ".repeat(depth);
        let inside: Vec<(String, &Value)> = match value {
            Value::Object(fields) => fields.iter().map(|(name, value)| (format!("{name}:"), value)).collect(),
            Value::Array(items) => items.iter().map(|value| ("-".to_owned(), value)).collect(),
            _ => Vec::new(),
        };
        let plain = if inside.is_empty() { value.to_string() } else { String::new() };
        if depth > 0 {
            writeln!(text, "{}{head} {plain}", &indent[2..]).expect("writing to a String");
        }
        waiting.extend(inside.into_iter().rev().map(|(head, value)| (head, value, depth + 1)));
    }
    text
}

fn inline(value: &Value) -> String {
    match value {
        Value::Object(fields) => {
            let fields: Vec<String> =
                fields.iter().map(|(name, value)| format!("{name:?} = {}", inline(value))).collect();
            format!("{{ {} }}", fields.join(", "))
        }
        Value::Array(items) => format!("[{}]", items.iter().map(inline).collect::<Vec<_>>().join(", ")),
        other => other.to_string(),
    }
}
