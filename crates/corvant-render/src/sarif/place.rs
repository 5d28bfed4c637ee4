//! Places as SARIF's locations.

use super::{Message, ROOT};
use corvant_core::source::{Place, Source, Span};
use corvant_core::wiring::Wiring;
use serde::Serialize;
use std::fmt::Write;

/// What stands between an archive and what is in it, in paths.
const IN_ARCHIVE: &str = "!/";

/// Where something is.
#[derive(Serialize)]
pub(super) struct Location<'a> {
    #[serde(skip_serializing_if = "Option::is_none")]
    id: Option<usize>,
    #[serde(rename = "physicalLocation")]
    physical: PhysicalLocation,
    #[serde(rename = "logicalLocations", skip_serializing_if = "Vec::is_empty")]
    pub(super) logical: Vec<LogicalLocation<'a>>,
    #[serde(skip_serializing_if = "Option::is_none")]
    message: Option<Message<'a>>,
}

#[derive(Serialize)]
#[serde(rename_all = "camelCase")]
struct PhysicalLocation {
    artifact_location: ArtifactLocation,
    /// Absent: the whole file.
    #[serde(skip_serializing_if = "Option::is_none")]
    region: Option<Region>,
}

/// A file.
#[derive(Serialize)]
#[serde(rename_all = "camelCase")]
pub(super) struct ArtifactLocation {
    uri: String,
    uri_base_id: &'static str,
}

impl ArtifactLocation {
    /// A file by its path relative to the root; what is in an archive is the archive.
    pub(super) fn new(path: &str) -> Self {
        let file = path.split_once(IN_ARCHIVE).map_or(path, |(archive, _)| archive);
        Self { uri: encoded(file), uri_base_id: ROOT }
    }
}

/// A part of a file; the end is exclusive.
#[derive(Serialize)]
#[serde(rename_all = "camelCase")]
pub(super) struct Region {
    start_line: u32,
    start_column: u32,
    end_line: u32,
    end_column: u32,
}

impl Region {
    /// The lines and columns of a span.
    pub(super) fn new(source: &Source, span: Span) -> Self {
        let (start, end) = (source.utf16_position(span.start), source.utf16_position(span.end));
        Self {
            start_line: start.line,
            start_column: start.column,
            end_line: end.line,
            end_column: end.column,
        }
    }
}

/// Something that has a name rather than a place.
#[derive(Serialize)]
#[serde(rename_all = "camelCase")]
pub(super) struct LogicalLocation<'a> {
    name: &'a str,
    fully_qualified_name: String,
    kind: &'static str,
}

impl<'a> LogicalLocation<'a> {
    /// A thing of a kind.
    pub(super) fn new(name: &'a str, kind: &'static str) -> Self {
        Self { name, fully_qualified_name: name.to_owned(), kind }
    }
}

impl<'a> Location<'a> {
    /// A place without its role.
    pub(super) fn new(wiring: &'a Wiring, place: &Place) -> Self {
        let source = &wiring.sources[place.source.index()];
        let in_archive = source.path.split_once(IN_ARCHIVE);
        let inside = in_archive.map(|(_, inside)| {
            let start = source.position(place.span.start);
            let fully_qualified_name = format!("{}:{}:{}", source.path, start.line, start.column);
            LogicalLocation { name: inside, fully_qualified_name, kind: "resource" }
        });
        let region =
            (in_archive.is_none() && !source.text.is_empty()).then(|| Region::new(source, place.span));
        Self {
            id: None,
            physical: PhysicalLocation { artifact_location: ArtifactLocation::new(&source.path), region },
            logical: inside.into_iter().collect(),
            message: None,
        }
    }

    /// The same with the part that it plays.
    pub(super) fn in_role(self, role: &'a str) -> Self {
        Self { message: Some(Message::new(role)), ..self }
    }

    /// The same with a number among those of its finding.
    pub(super) fn numbered(self, id: usize) -> Self {
        Self { id: Some(id), ..self }
    }
}

/// A path as a relative reference by RFC 3986: `/` stays, and all that is not unreserved is percent-encoded. A colon in
/// it cannot be taken for a scheme's.
fn encoded(path: &str) -> String {
    let mut uri = String::with_capacity(path.len());
    for byte in path.bytes() {
        if byte.is_ascii_alphanumeric() || b"-._~/".contains(&byte) {
            uri.push(byte.into());
        } else {
            let _ = write!(uri, "%{byte:02X}");
        }
    }
    uri
}

#[cfg(test)]
mod tests {
    use super::encoded;
    use rstest::rstest;

    #[rstest]
    #[case("modules/depot/depot.wiring.yaml", "modules/depot/depot.wiring.yaml")]
    #[case("a b/č:50%.yaml", "a%20b/%C4%8D%3A50%25.yaml")]
    fn paths_are_references(#[case] path: &str, #[case] uri: &str) {
        assert_eq!(encoded(path), uri);
    }
}
