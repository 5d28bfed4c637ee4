//! The workspace file: what it says, what is wrong with it, and what of it no file is for.

use super::error::WorkspaceError;
use crate::custom::declaration;
use crate::files::{self, Refused, TEXT_LIMIT};
use crate::native::workspace_file::{self, Settings};
use crate::plan::Plan;
use crate::syntax::toml;
use corvant_core::facts::{Header, SourceKind, Trouble};
use corvant_core::finding::BlindSpot;
use corvant_core::name::Interner;
use corvant_core::source::{Position, Source};
use corvant_core::wiring::Manifest;
use std::path::Path;

/// The text of the workspace file, if there is one.
pub(super) fn read_settings(root: &Path) -> Result<Option<String>, WorkspaceError> {
    match files::read(&root.join(workspace_file::NAME), TEXT_LIMIT) {
        Ok(bytes) => text(bytes).map(Some),
        Err(Refused::Missing) => Ok(None),
        Err(Refused::Because(why)) => Err(broken(why)),
    }
}

/// The text of a workspace file.
pub(super) fn text(bytes: Vec<u8>) -> Result<String, WorkspaceError> {
    String::from_utf8(bytes).map_err(|error| {
        broken(format!("not UTF-8 text: byte {} begins no character", error.utf8_error().valid_up_to()))
    })
}

fn broken(reason: String) -> WorkspaceError {
    WorkspaceError::BrokenFile { at: workspace_file::NAME.to_owned(), reason }
}

/// What a workspace file says: its settings, and its facts as a manifest of no module.
pub(super) fn workspace_file(
    mut text: String,
    interner: &Interner,
) -> Result<(Settings, Option<Manifest>), WorkspaceError> {
    if text.starts_with('\u{feff}') {
        text.remove(0);
    }
    let read = toml::parse(&text).map(|tree| workspace_file::read(&tree, interner));
    let source = Source::new(workspace_file::NAME.to_owned(), text);
    match read {
        Ok((settings, facts)) => {
            let mistakes: Vec<String> = facts
                .troubles
                .iter()
                .filter(|trouble| declaration::is_about_readers(&trouble.subject))
                .map(|trouble| mistake(&source, trouble, &settings.reader_names))
                .collect();
            if !mistakes.is_empty() {
                return Err(WorkspaceError::BrokenReaders { mistakes: mistakes.join("\n") });
            }
            let header = Header { kind: SourceKind::WorkspaceFile, ..Header::default() };
            Ok((settings, Some(Manifest { source, header, facts })))
        }
        Err(error) => {
            let Position { line, column } = source.position(error.span.start);
            let at = format!("{}:{line}:{column}", workspace_file::NAME);
            Err(WorkspaceError::BrokenFile { at, reason: error.message })
        }
    }
}

/// A mistake in a reader, on lines of its own.
fn mistake(source: &Source, trouble: &Trouble, names: &[String]) -> String {
    let Position { line, column } = source.position(trouble.at.0.start);
    let subject = declaration::by_name(&trouble.subject, names);
    let help: String = trouble.fixes.iter().map(|fix| format!("\n    help: {}", fix.title)).collect();
    format!("  {}:{line}:{column}: {}: {}{help}", source.path, subject, trouble.message)
}

/// What can be said of the files before they are read: which members and readers have none. That two readers are
/// for one file is an error.
pub(super) fn seen<'path>(
    plan: &Plan,
    file: Option<&Manifest>,
    paths: impl Iterator<Item = &'path str> + Clone,
) -> Result<Vec<BlindSpot>, WorkspaceError> {
    if !plan.readers.is_empty() {
        for path in paths.clone() {
            let Some((reader, other)) = plan.rivals(path) else { continue };
            let reader = &plan.readers[reader];
            let other = match other {
                Some(other) => format!("the reader {}", plan.readers[other].name),
                None => "Corvant's own format".to_owned(),
            };
            let Position { line, column } =
                file.map_or(Position { line: 1, column: 1 }, |file| file.source.position(reader.at.start));
            return Err(WorkspaceError::BrokenFile {
                at: format!("{}:{line}:{column}", workspace_file::NAME),
                reason: format!(
                    "the reader {} is for {path}, and so is {other}: narrow the `files` of one",
                    reader.name
                ),
            });
        }
    }
    let mut spots = plan.scope.empty_members(paths.clone());
    spots.extend(plan.idle_readers(paths.clone()));
    spots.extend(plan.idle_types(paths));
    Ok(spots)
}
