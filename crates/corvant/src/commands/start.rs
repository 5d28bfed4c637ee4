//! `corvant start`

use super::audit::{self, Looked};
use crate::cli::{Caching, Looking, Screen};
use crate::exit::{self, CommandError};
use crate::{files, output};
use corvant_core::source::Source;
use corvant_read::draft::{self, Draft, FamilyDraft};
use corvant_read::mend::Texts;
use corvant_read::native::workspace_file;
use corvant_read::workspace::{self, Beside, WorkspaceError};
use corvant_render::out::Out;
use corvant_render::text::{counted, severities};
use std::fmt::Write as _;
use std::io::{ErrorKind, Write};
use std::path::Path;

/// Findings that are named before the rest is counted.
const NAMED: usize = 8;
/// Families that are named of those of which nothing says that they hold definitions.
const DOUBTFUL: usize = 3;
const STANDARD_OUTPUT: &str = "-";

pub(crate) fn run(
    root: &Path,
    write: bool,
    output: Option<&Path>,
    screen: &Screen,
) -> Result<u8, CommandError> {
    if let Err(error) = std::fs::read_dir(root) {
        return Err(CommandError::Usage(format!(
            "{} is not a folder that can be read: {error}",
            root.display()
        )));
    }
    let mut draft = draft::draft(root);
    if draft.families.is_empty() && draft.seen.manifests == 0 {
        return Err(nothing(root, &draft));
    }
    let (looked, left_out) = look(root, &mut draft)?;
    if (write || output.is_some()) && draft.text().is_empty() {
        output::say("nothing is drafted, and nothing written: what is here is read as it is");
        return Ok(exit::CLEAN);
    }
    if write {
        create(&root.join(workspace_file::NAME), &draft.text())?;
    }
    match output {
        Some(path) if path.as_os_str() == STANDARD_OUTPUT => {
            let text = draft.text();
            output::write_own(None, |out| Out::new(out).write_all(text.as_bytes()))?;
            return Ok(exit::CLEAN);
        }
        Some(path) => create(path, &draft.text())?,
        None => {}
    }
    if !screen.quiet {
        let told = told(&draft, &looked, &left_out);
        output::write_own(None, |out| Out::new(out).write_all(told.as_bytes()))?;
        output::say(&next(&draft, root, write, output));
    }
    std::mem::forget(looked);
    Ok(exit::CLEAN)
}

/// Nothing to draft, and nothing to audit.
fn nothing(root: &Path, draft: &Draft) -> CommandError {
    let looked_at = counted(draft.seen.candidates, "file", "files");
    if !draft.scattered.is_empty() {
        let files = files_of(&draft.scattered);
        return CommandError::Usage(format!(
            "there are {files} {SCATTERED}, as {} in {}: names or folders of their own would tell them apart",
            largest(&draft.scattered),
            root.display()
        ));
    }
    let nearest = if draft.doubtful.is_empty() {
        String::new()
    } else {
        format!(
            "; there are items in {}, and nothing says that they are definitions",
            largest(&draft.doubtful)
        )
    };
    CommandError::Usage(format!(
        "nothing in {} looks like definitions: {looked_at} in YAML, JSON, TOML, XML, INI, properties, records or lines were looked at, and no code there registers types in many places{nearest}",
        root.display()
    ))
}

/// Audits with the draft beside what the workspace file says already. Readers that cannot be used so are left out, and told.
fn look(root: &Path, draft: &mut Draft) -> Result<(Looked, Vec<String>), CommandError> {
    let known = std::fs::read_to_string(root.join(workspace_file::NAME)).unwrap_or_default();
    let mut left_out = Vec::new();
    let mut looked = match audited(root, &known, draft) {
        Ok(looked) => looked,
        Err(error) => {
            let all = std::mem::take(&mut draft.families);
            for family in all {
                draft.families.push(family);
                if let Err(why) = audited(root, &known, draft)
                    && let Some(family) = draft.families.pop()
                {
                    left_out.push(format!("{}: {why}", family.glob));
                }
            }
            let is_nothing = matches!(error, CommandError::Workspace(WorkspaceError::NothingFound { .. }));
            if draft.families.is_empty() {
                return Err(if is_nothing { nothing(root, draft) } else { error });
            }
            audited(root, &known, draft)?
        }
    };
    draft.supplied = draft::supplied(&looked.0, &looked.1);
    if !draft.supplied.is_empty() {
        // Where the workspace file says itself what is supplied, that stands.
        match audited(root, &known, draft) {
            Ok(with_supplied) => looked = with_supplied,
            Err(_) => draft.supplied.clear(),
        }
    }
    Ok((looked, left_out))
}

/// An audit with a draft for what a workspace file does not say.
fn audited(root: &Path, known: &str, draft: &Draft) -> Result<Looked, CommandError> {
    let text = format!("{known}\n{}", draft.text());
    let file = Source::new(workspace_file::NAME.to_owned(), text);
    let instead: Texts = [(file.path.clone(), file)].into_iter().collect();
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

fn told(draft: &Draft, (wiring, report): &Looked, left_out: &[String]) -> String {
    let mut told = String::new();
    if draft.seen.manifests > 0 {
        let _ = writeln!(told, "{} read already", counted(draft.seen.manifests, "file is", "files are"));
    }
    for family in &draft.families {
        told.push_str(&of_family(family));
    }
    for supplied in &draft.supplied {
        let names = counted(supplied.names.len(), "name", "names");
        let places = counted(supplied.places, "place", "places");
        let _ = writeln!(
            told,
            "{}*: {names} needed in {places} and defined nowhere: taken for supplied",
            supplied.beginning
        );
    }
    told.push_str(&not_drafted(&draft.doubtful, "in which nothing says that they hold definitions"));
    told.push_str(&not_drafted(&draft.scattered, SCATTERED));
    for line in left_out {
        let _ = writeln!(told, "not described: {line}");
    }
    for path in draft.seen.broken.iter().take(NAMED) {
        let _ = writeln!(told, "not read: {path}: it is not well-formed");
    }
    let more = draft.seen.broken.len().saturating_sub(NAMED);
    if more > 0 {
        let _ = writeln!(
            told,
            "not read: {} that are not well-formed",
            counted(more, "further file", "further files")
        );
    }
    let found = severities(&report.summary).into_iter().map(|(_, count)| count).collect::<Vec<_>>();
    let found = if found.is_empty() { "nothing wrong".to_owned() } else { found.join(", ") };
    let summary = &report.summary;
    let _ = writeln!(
        told,
        "\nan audit{} looks at {}, {} and {}, and finds {found}",
        if draft.families.is_empty() { "" } else { " with this draft" },
        counted(summary.services, "service", "services"),
        counted(summary.needs, "need", "needs"),
        counted(summary.entries, "entry", "entries")
    );
    for finding in report.findings.iter().take(NAMED) {
        let place = finding.places.first().map_or_else(String::new, |place| {
            let source = &wiring.sources[place.source.index()];
            format!("  {}:{}", source.path, source.position(place.span.start).line)
        });
        let _ =
            writeln!(told, "  {} {}: {}{place}", finding.severity.word(), finding.rule.name, finding.subject);
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

/// What is said of files that lie so that no reader can be for them alone.
const SCATTERED: &str = "with definitions that lie among others, so that no few patterns fit them alone";

/// Families that are not drafted, if there are any, and why.
fn not_drafted(all: &[(String, usize)], why: &str) -> String {
    if all.is_empty() {
        return String::new();
    }
    let files = files_of(all);
    format!("not drafted: {files} {why}, as {}\n", largest(all))
}

/// How many files some families have.
fn files_of(all: &[(String, usize)]) -> String {
    counted(all.iter().map(|(_, files)| files).sum(), "file", "files")
}

/// The largest of some families by their patterns, the rest by number.
fn largest(all: &[(String, usize)]) -> String {
    let mut largest: Vec<&(String, usize)> = all.iter().collect();
    largest.sort_by_key(|(_, files)| std::cmp::Reverse(*files));
    let named: Vec<&str> = largest.iter().take(DOUBTFUL).map(|(glob, _)| glob.as_str()).collect();
    let more = all.len().saturating_sub(DOUBTFUL);
    let more = if more > 0 { format!(" and {more} more") } else { String::new() };
    format!("{}{more}", named.join(", "))
}

fn of_family(family: &FamilyDraft) -> String {
    let items: Vec<String> =
        family.items.iter().map(|(what, count)| counted(*count, what, &plural(what))).collect();
    let files = counted(family.files, "file", "files");
    let mut told = format!("{}: {files} of {}: {}\n", family.glob, family.syntax, items.join(", "));
    let (known, all) = family.known;
    if all > 0 {
        let _ = writeln!(told, "  {known} of {all} names that stand where references do are defined");
    }
    for line in &family.unsure {
        let _ = writeln!(told, "  unsure: {line}");
    }
    told
}

fn plural(what: &str) -> String {
    what.strip_suffix('y').map_or_else(|| format!("{what}s"), |stem| format!("{stem}ies"))
}

fn next(draft: &Draft, root: &Path, write: bool, output: Option<&Path>) -> String {
    match (write, output) {
        _ if draft.families.is_empty() => "there is nothing to draft: now try: corvant audit".to_owned(),
        (true, _) => format!("wrote {}; now try: corvant audit", root.join(workspace_file::NAME).display()),
        (_, Some(path)) => format!("wrote {}", path.display()),
        _ => "nothing is written: --output - shows the draft, --write writes it to corvant.toml".to_owned(),
    }
}
