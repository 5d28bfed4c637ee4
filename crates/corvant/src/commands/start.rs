//! `corvant start`

use super::audit;
use crate::cli::{Caching, Looking, Screen};
use crate::exit::{self, CommandError};
use crate::{files, output};
use corvant_core::audit::Report;
use corvant_core::wiring::Wiring;
use corvant_read::draft::{self, Draft, FamilyDraft};
use corvant_read::mend::Texts;
use corvant_read::native::workspace_file;
use corvant_read::workspace::{self, Beside};
use corvant_render::out::Out;
use corvant_render::text::{counted, severities};
use std::fmt::Write as _;
use std::io::{ErrorKind, Write};
use std::path::Path;

/// Findings that are named before the rest is counted.
const NAMED: usize = 8;
const STANDARD_OUTPUT: &str = "-";

pub(crate) fn run(
    root: &Path,
    write: bool,
    output: Option<&Path>,
    screen: &Screen,
) -> Result<u8, CommandError> {
    let draft = draft::draft_beside(root);
    let known = std::fs::read_to_string(root.join(workspace_file::NAME)).unwrap_or_default();
    let text =
        if known.is_empty() { draft.text.clone() } else { format!("{}\n{}", known.trim_end(), draft.text) };
    let looked = if draft.families.is_empty() && draft.seen.manifests == 0 {
        return Err(CommandError::Usage(format!(
            "nothing in {} looks like definitions: {} in YAML, JSON, TOML, XML, INI, properties or records were looked at",
            root.display(),
            counted(draft.seen.candidates, "file", "files")
        )));
    } else {
        look(root, &text)?
    };
    if write {
        create(&root.join(workspace_file::NAME), &draft.text)?;
    }
    match output {
        Some(path) if path.as_os_str() == STANDARD_OUTPUT => {
            return output::write_own(None, |out| Out::new(out).write_all(draft.text.as_bytes()))
                .map(|()| exit::CLEAN);
        }
        Some(path) => create(path, &draft.text)?,
        None => {}
    }
    if !screen.quiet {
        let told = told(&draft, &looked);
        output::write_own(None, |out| Out::new(out).write_all(told.as_bytes()))?;
        output::say(&next(root, write, output));
    }
    std::mem::forget(looked);
    Ok(exit::CLEAN)
}

/// An audit with the draft for a workspace file.
fn look(root: &Path, text: &str) -> Result<(Wiring, Report), CommandError> {
    let instead: Texts = [(workspace_file::NAME.to_owned(), text.to_owned())].into_iter().collect();
    let workspace = workspace::read_beside(root, Beside { instead: Some(&instead), ..Beside::default() })?;
    let caching = Caching { cache: None, no_cache: true };
    audit::look(workspace, &Looking { stage: None, rules: Vec::new(), today: None, caching })
}

fn create(path: &Path, text: &str) -> Result<(), CommandError> {
    files::create(path, text).map_err(|reason| match reason.kind() {
        ErrorKind::AlreadyExists => CommandError::Usage(format!(
            "{} is there already: look at the draft with --output - and take over what is missing",
            path.display()
        )),
        _ => CommandError::Output { path: path.display().to_string(), reason },
    })
}

fn told(draft: &Draft, (_, report): &(Wiring, Report)) -> String {
    let mut told = String::new();
    if draft.seen.manifests > 0 {
        let _ = writeln!(
            told,
            "{} somebody reads already",
            counted(draft.seen.manifests, "file that", "files that")
        );
    }
    for family in &draft.families {
        told.push_str(&of_family(family));
    }
    let found = severities(&report.summary).into_iter().map(|(_, count)| count).collect::<Vec<_>>();
    let found = if found.is_empty() { "nothing wrong".to_owned() } else { found.join(", ") };
    let summary = &report.summary;
    let _ = writeln!(
        told,
        "\nan audit with this draft looks at {}, {} and {}, and finds {found}",
        counted(summary.services, "service", "services"),
        counted(summary.needs, "need", "needs"),
        counted(summary.entries, "entry", "entries")
    );
    for finding in report.findings.iter().take(NAMED) {
        let _ = writeln!(told, "  {} {}: {}", finding.severity.word(), finding.rule.name, finding.subject);
    }
    let more = report.findings.len().saturating_sub(NAMED);
    if more > 0 {
        let _ = writeln!(told, "  … and {more} more");
    }
    let left: usize = report.readers.iter().map(|coverage| coverage.left_over).sum();
    let _ = writeln!(
        told,
        "left over: {}; `corvant audit --explain-readers` says which",
        counted(left, "value", "values")
    );
    told
}

fn of_family(family: &FamilyDraft) -> String {
    let items: Vec<String> =
        family.items.iter().map(|(what, count)| counted(*count, what, &plural(what))).collect();
    let mut told = format!(
        "{}: {} of {}: {}\n",
        family.glob,
        counted(family.files, "file", "files"),
        family.syntax,
        items.join(", ")
    );
    for line in &family.unsure {
        let _ = writeln!(told, "  unsure: {line}");
    }
    told
}

fn plural(what: &str) -> String {
    what.strip_suffix('y').map_or_else(|| format!("{what}s"), |stem| format!("{stem}ies"))
}

fn next(root: &Path, write: bool, output: Option<&Path>) -> String {
    match (write, output) {
        (true, _) => format!("wrote {}; now try: corvant audit", root.join(workspace_file::NAME).display()),
        (_, Some(path)) => format!("wrote {}", path.display()),
        _ => "nothing is written: --output - shows the draft, --write writes it to corvant.toml".to_owned(),
    }
}
