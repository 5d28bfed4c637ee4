//! What the syntaxes' tests share: trees drawn on one line.

use super::{NodeId, NodeKind, SyntaxError, Tree};
use std::fmt::Write;

/// A tree on one line, or the error: kinds are visible by how values are written.
pub(super) fn drawn(parsed: Result<Tree<'_>, SyntaxError>) -> String {
    match parsed {
        Ok(tree) => {
            let mut out = String::new();
            if let Some(root) = tree.root() {
                draw(&tree, root, &mut out);
            }
            out.replace(" }", "}").replace(" ]", "]")
        }
        Err(error) => format!("error at {}: {}", error.span.start, error.message),
    }
}

fn draw(tree: &Tree<'_>, id: NodeId, out: &mut String) {
    match tree.kind(id) {
        NodeKind::Map => {
            out.push('{');
            for (key, value) in tree.fields(id) {
                write!(out, "{}=", tree.text(key)).unwrap();
                draw(tree, value, out);
                out.push(' ');
            }
            out.push('}');
        }
        NodeKind::List => {
            out.push('[');
            for item in tree.children(id) {
                draw(tree, item, out);
                out.push(' ');
            }
            out.push(']');
        }
        NodeKind::Text => write!(out, "'{}'", tree.text(id)).unwrap(),
        NodeKind::Null => out.push('-'),
        NodeKind::Boolean => write!(out, "b:{}", tree.text(id)).unwrap(),
        NodeKind::Integer => write!(out, "i:{}", tree.text(id)).unwrap(),
        NodeKind::Number => write!(out, "n:{}", tree.text(id)).unwrap(),
    }
}

/// The source text of the last value of the outermost map.
pub(super) fn value_text<'text>(tree: &Tree<'text>) -> &'text str {
    let (_, value) = tree.fields(tree.root().unwrap()).last().unwrap();
    tree.source_of(value)
}

/// A tree on one line, all plain values alike.
pub(super) fn outline(tree: &Tree<'_>) -> String {
    fn go(tree: &Tree<'_>, id: NodeId) -> String {
        match tree.kind(id) {
            NodeKind::Map => {
                let fields =
                    tree.fields(id).map(|(key, value)| format!("{}: {}", tree.text(key), go(tree, value)));
                format!("{{{}}}", fields.collect::<Vec<_>>().join(", "))
            }
            NodeKind::List => {
                format!("[{}]", tree.children(id).map(|item| go(tree, item)).collect::<Vec<_>>().join(", "))
            }
            NodeKind::Null => "~".to_owned(),
            _ => tree.text(id).to_owned(),
        }
    }
    go(tree, tree.root().unwrap())
}

/// Texts of keys and plain values, each with what is written at its place.
pub(super) fn places(tree: &Tree<'_>) -> Vec<(String, String)> {
    let mut waiting: Vec<NodeId> = tree.root().into_iter().collect();
    let mut places = Vec::new();
    while let Some(node) = waiting.pop() {
        places.push((tree.text(node).to_owned(), tree.source_of(node).to_owned()));
        let mut children: Vec<NodeId> = tree.children(node).collect();
        children.reverse();
        waiting.extend(children);
    }
    places
}
