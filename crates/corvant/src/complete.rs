//! Completions: shells ask the program itself, so that it can offer the workspace's own names.

use crate::cache;
use crate::cli::{Arguments, Caching};
use crate::threads;
use clap::CommandFactory;
use clap_complete::engine::CompletionCandidate;
use clap_complete::env::{CompleteEnv, Shells};
use corvant_core::answers::{Kind, known_names};
use corvant_core::wiring::Wiring;
use corvant_read::workspace::{self, Beside};
use corvant_render::out::safe;
use std::collections::BTreeMap;
use std::io;
use std::path::PathBuf;

/// The variable by which a shell says that it asks.
const ASKED: &str = "CORVANT_COMPLETE";

/// Answers a shell that asks for completions, and ends the program; does nothing otherwise.
pub(crate) fn answer_shells() {
    CompleteEnv::with_factory(Arguments::command).var(ASKED).complete();
}

/// The script by which a shell comes to ask the program.
pub(crate) fn script(shell: clap_complete::Shell) -> io::Result<Vec<u8>> {
    let mut script = Vec::new();
    let shells = Shells::builtins();
    let name = shell.to_string();
    let completer =
        shells.completer(&name).ok_or_else(|| io::Error::other(format!("no completions for {name}")))?;
    completer.write_registration(ASKED, "corvant", "corvant", "corvant", &mut script)?;
    Ok(script)
}

/// All names of the workspace that the command line is about, each with its kinds.
pub(crate) fn names() -> Vec<CompletionCandidate> {
    candidates(&Kind::ALL)
}

/// Its entries.
pub(crate) fn entries() -> Vec<CompletionCandidate> {
    candidates(&[Kind::Entry])
}

/// Its stages.
pub(crate) fn stages() -> Vec<CompletionCandidate> {
    let Some(wiring) = wiring() else { return Vec::new() };
    let stages = wiring.stages.iter().map(|&stage| wiring.text(stage)).filter(|stage| is_offered(stage));
    stages.map(CompletionCandidate::new).collect()
}

fn candidates(wanted: &[Kind]) -> Vec<CompletionCandidate> {
    let Some(wiring) = wiring() else { return Vec::new() };
    let mut kinds: BTreeMap<&str, Vec<&str>> = BTreeMap::new();
    let known = known_names(&wiring).filter(|(kind, _)| wanted.contains(kind));
    for (kind, name) in known.filter(|(_, name)| is_offered(wiring.text(*name))) {
        let words = kinds.entry(wiring.text(name)).or_default();
        if !words.contains(&kind.word()) {
            words.push(kind.word());
        }
    }
    let candidate =
        |(name, kinds): (&str, Vec<&str>)| CompletionCandidate::new(name).help(Some(kinds.join(", ").into()));
    kinds.into_iter().map(candidate).collect()
}

/// A name with something in it that a terminal would act on is not offered: the shell writes it as it is.
fn is_offered(name: &str) -> bool {
    safe(name) == name
}

/// The workspace that is asked about. One that cannot be read has no names to offer; the command itself will say why.
fn wiring() -> Option<Wiring> {
    threads::begin(None).ok()?;
    let cache = cache::folder(&Caching::default()).ok()?;
    let beside = Beside { cache: cache.as_deref(), ..Beside::default() };
    let workspace = workspace::read_beside(&root(), beside).ok()?;
    Some(workspace.link().0)
}

/// The folder that `--root` names on the command line that is being completed.
fn root() -> PathBuf {
    let words: Vec<String> = std::env::args().collect();
    let after = words.iter().position(|word| word == "--root").and_then(|at| words.get(at + 1));
    let joined = words.iter().find_map(|word| word.strip_prefix("--root="));
    after.map(String::as_str).or(joined).unwrap_or(".").into()
}
