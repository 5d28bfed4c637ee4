//! `corvant fix`

use super::audit;
use crate::cache;
use crate::cli::{FixOptions, Looking};
use crate::exit::{self, CommandError};
use crate::files::{self, UpdateError};
use crate::progress::Shown;
use crate::{output, patch};
use corvant_core::finding::Certainty;
use corvant_read::edit::EditedFile;
use corvant_read::mend::{Mended, Texts, Told, Wanted, Why, mend};
use corvant_read::workspace::{self, Beside, Workspace};
use corvant_render::out::Out;
use corvant_render::text::{counted, severities};
use std::cell::OnceCell;
use std::io::{self, Write};
use std::path::Path;

/// Fixes of one kind that are told before the rest is counted.
const TOLD: usize = 50;
const MARK: char = '\u{feff}';

pub(crate) fn run(root: &Path, options: &FixOptions) -> Result<u8, CommandError> {
    let shown = Shown::begin(options.screen.quiet);
    let mended = mended(root, options, &shown)?;
    drop(shown);
    let is_quiet = options.screen.quiet;
    if options.write {
        write(root, &mended)?;
        let lines: String = mended.made.iter().map(|told| line(told) + "\n").collect();
        if !is_quiet {
            output::write_own(None, |out| Out::new(out).write_all(lines.as_bytes()))?;
        }
    } else {
        patch::write(&patch::text(&mended.texts), &options.screen)?;
    }
    if !is_quiet {
        summarise(&mended, options);
    }
    let status = if options.write || mended.made.is_empty() { exit::CLEAN } else { exit::FINDINGS };
    std::mem::forget(mended);
    Ok(status)
}

/// Makes fixes in memory.
fn mended(root: &Path, options: &FixOptions, shown: &Shown) -> Result<Mended, CommandError> {
    let cache = cache::folder(&options.caching)?;
    let as_it_is: OnceCell<Workspace> = OnceCell::new();
    let looking = Looking {
        stage: options.stage.clone(),
        rules: Vec::new(),
        today: options.today.clone(),
        caching: options.caching.clone(),
    };
    // What is not edited is read once.
    let look = |texts: &Texts| {
        let beside = Beside {
            cache: cache.as_deref(),
            progress: Some(shown.progress()),
            twin: as_it_is.get(),
            instead: Some(texts),
            ..Beside::default()
        };
        let workspace = workspace::read_beside(root, beside)?;
        as_it_is.get_or_init(|| workspace.clone());
        audit::look(workspace, &looking)
    };
    let wanted = Wanted {
        certainty: if options.likely { Certainty::Likely } else { Certainty::Certain },
        rules: &options.rules,
        subjects: &options.subjects,
        limit: options.limit.map(usize::from),
    };
    let top = root.canonicalize();
    let refuse = |path: &str| match &top {
        Ok(top) => refusal(top, &root.join(path)),
        Err(error) => Some(error.to_string()),
    };
    mend(look, refuse, &wanted)
}

/// Why a file is not to be edited, if so.
fn refusal(top: &Path, path: &Path) -> Option<String> {
    match path.canonicalize() {
        Ok(on_disk) if !on_disk.starts_with(top) => {
            Some("it lies outside of the folder: fix it where it is".to_owned())
        }
        Ok(on_disk) => files::may_be_written(&on_disk).err().map(|error| error.to_string()),
        Err(error) => Some(error.to_string()),
    }
}

/// Writes all files, or none if one of them is not what was read any more.
fn write(root: &Path, mended: &Mended) -> Result<(), CommandError> {
    let failed = |path: &str, reason| CommandError::Output { path: path.to_owned(), reason };
    for (path, file) in &mended.texts {
        let text = std::fs::read_to_string(root.join(path)).map_err(|reason| failed(path, reason))?;
        edited(&text, file).map_err(|why| failed(path, io::Error::other(why)))?;
    }
    for (path, file) in &mended.texts {
        let change = |text: &str| edited(text, file).map(Some);
        files::update(&root.join(path), change).map_err(|error| match error {
            UpdateError::Refused(why) => failed(path, io::Error::other(why)),
            UpdateError::Io(reason) => failed(path, reason),
        })?;
    }
    Ok(())
}

/// The new text of a file that is still what was read; a byte-order mark stays.
fn edited(text: &str, file: &EditedFile) -> Result<String, String> {
    let (mark, rest) = text.strip_prefix(MARK).map_or(("", text), |rest| ("\u{feff}", rest));
    if rest == file.before {
        Ok([mark, &file.after].concat())
    } else {
        Err("it was changed meanwhile: run this again".to_owned())
    }
}

/// A fix on a line.
fn line(told: &Told) -> String {
    let Told { rule, subject, title, file, line, .. } = told;
    format!("{file}:{line}: {} {subject}: {title}", rule.name)
}

/// Says what was or would be made, what was left out, and what is left.
fn summarise(mended: &Mended, options: &FixOptions) {
    let Mended { texts, made, left_out, report, .. } = mended;
    let (fixes, files) = (counted(made.len(), "fix", "fixes"), counted(texts.len(), "file", "files"));
    match (made.is_empty(), options.write) {
        (true, _) => output::say("there is nothing to make"),
        (false, true) => output::say(&format!("made {fixes} in {files}")),
        (false, false) => {
            list(made.iter().map(line));
            output::say(&format!("{fixes} in {files}; nothing is written: --write makes the edits"));
        }
    }
    if !left_out.is_empty() {
        output::say("left out:");
        list(left_out.iter().map(|(told, why)| format!("{}; but {}", line(told), reason(why))));
    }
    let is_there = |certainty: Certainty| {
        let all = report.findings.iter().filter(|finding| {
            finding.fixes.iter().any(|fix| fix.certainty == certainty && !fix.edits.is_empty())
        });
        all.count()
    };
    let likely = if options.likely { 0 } else { is_there(Certainty::Likely) };
    if likely > 0 {
        let findings = counted(likely, "finding has", "findings have");
        output::say(&format!("{findings} a fix that is likely: see them with --likely"));
    }
    let left = severities(&report.summary).into_iter().map(|(_, count)| count).collect::<Vec<_>>();
    let left = if left.is_empty() { "nothing".to_owned() } else { left.join(", ") };
    let then = if options.write { "an audit finds now" } else { "an audit would find then" };
    output::say(&format!("{then}: {left}"));
}

/// Says lines, and how many more there are.
fn list(lines: impl ExactSizeIterator<Item = String>) {
    let more = lines.len().saturating_sub(TOLD);
    for line in lines.take(TOLD) {
        output::say(&format!("  {line}"));
    }
    if more > 0 {
        output::say(&format!("  … and {more} more"));
    }
}

fn reason(why: &Why) -> String {
    match why {
        Why::StillThere => "the finding would still be there".to_owned(),
        Why::Brings { rule, subject } => format!("it would bring {rule} {subject}"),
        Why::Unreadable(why) => format!("then nothing could be read: {why}"),
        Why::Refused { file, why } => format!("{file} is left alone: {why}"),
        Why::NotTried => "it was not tried, as so many others did not do".to_owned(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::fs;

    const FAULTY: &str = "corvant: 1\nmodule: NAME\nservices: { NAME.yard: {} }\nentries: { NAME: { needs: { y: { service: NAME.yrad } } } }\n";

    /// Two files with a certain fix each, made in memory.
    fn mended_of(folder: &Path) -> Mended {
        for name in ["depot", "signals"] {
            let path = folder.join(format!("{name}.wiring.yaml"));
            fs::write(path, FAULTY.replace("NAME", name)).expect("the folder is there");
        }
        let look = |texts: &Texts| {
            let beside = Beside { instead: Some(texts), ..Beside::default() };
            let (wiring, _) = workspace::read_beside(folder, beside)?.link();
            let report = corvant_core::audit::audit(&wiring, &corvant_core::audit::Options::default());
            Ok::<_, workspace::WorkspaceError>((wiring, report))
        };
        let wanted = Wanted { certainty: Certainty::Certain, rules: &[], subjects: &[], limit: None };
        mend(look, |_| None, &wanted).expect("it can be read")
    }

    #[test]
    fn nothing_is_written_if_a_file_was_changed_meanwhile() {
        let folder = tempfile::tempdir().expect("there is room");
        let mended = mended_of(folder.path());
        assert_eq!(mended.texts.len(), 2);
        let changed = folder.path().join("signals.wiring.yaml");
        fs::write(&changed, "corvant: 1\nmodule: signals\n").expect("it may be written");
        let error = write(folder.path(), &mended).expect_err("it is another file now").to_string();
        assert!(error.contains("signals.wiring.yaml") && error.contains("changed meanwhile"), "{error}");
        let other = fs::read_to_string(folder.path().join("depot.wiring.yaml")).expect("it is there");
        assert_eq!(other, FAULTY.replace("NAME", "depot"));
        fs::remove_file(&changed).expect("it is there");
        write(folder.path(), &mended).expect_err("a file that is gone is not made again");
        assert!(!changed.exists());
    }
}
