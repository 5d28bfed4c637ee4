//! What all questions share: the workspace that is asked, and names in it.

use super::audit;
use crate::cache;
use crate::cli::{Asking, Format, To, WorkspaceAt};
use crate::exit::CommandError;
use crate::output;
use crate::progress::Shown;
use corvant_core::answers::{Kind, Subject, Unknown, View, look_up};
use corvant_core::audit::{Options, Report};
use corvant_core::name::Name;
use corvant_core::wiring::Wiring;
use corvant_core::word::join_words;
use corvant_read::workspace::{self, Beside};
use corvant_render::out::Out;
use corvant_render::text::Layout;
use std::io;

/// A workspace, linked.
pub(crate) struct Asked {
    pub(crate) wiring: Wiring,
    pub(crate) stage: Option<Name>,
    pub(crate) shown: Shown,
}

impl Asked {
    /// Reads and links the workspace; `to` says whether anybody may see the progress.
    pub(crate) fn read(place: &WorkspaceAt, to: &To) -> Result<Self, CommandError> {
        let shown = Shown::begin(to.screen.quiet);
        let cache = cache::folder(&place.caching)?;
        let beside =
            Beside { cache: cache.as_deref(), progress: Some(shown.progress()), ..Beside::default() };
        let workspace = workspace::read_beside(&place.root, beside)?;
        let (wiring, _) = workspace.link();
        let mut stage = place.stage.as_deref().map(|stage| audit::find_stage(&wiring, stage)).transpose()?;
        if let (None, true, Some(&first)) = (stage, wiring.policy.stage_required, wiring.stages.first()) {
            let name = wiring.text(first);
            output::say(&format!(
                "some stage is always chosen here: this is {name}; --stage NAME chooses another"
            ));
            stage = Some(first);
        }
        Ok(Self { wiring, stage, shown })
    }

    /// The wiring in the stage that is asked about.
    pub(crate) fn view(&self) -> View<'_> {
        View::new(&self.wiring, self.stage)
    }

    /// What an audit finds in it.
    pub(crate) fn report(&self) -> Report {
        let options = Options { stage: self.stage, today: Some(audit::today()), ..Options::default() };
        corvant_core::audit::audit(&self.wiring, &options)
    }
}

/// Asks a workspace, writes the answer as text or as JSON, and gives it back.
pub(crate) fn ask<A>(
    asking: &Asking,
    answer: impl FnOnce(&Asked) -> Result<A, CommandError>,
    text: impl FnOnce(&A, &Wiring, Layout, &mut Out<'_>) -> io::Result<()>,
    json: impl FnOnce(&A, &Wiring, &mut Out<'_>) -> io::Result<()>,
) -> Result<A, CommandError> {
    let to = &asking.writing.to;
    let asked = Asked::read(&asking.place, to)?;
    let answer = answer(&asked)?;
    let Asked { wiring, shown, .. } = asked;
    drop(shown);
    output::keep_inputs(to.output.as_deref(), &asking.place.root, wiring.paths())?;
    output::write(to, |layout, out| match asking.writing.format {
        Format::Text => text(&answer, &wiring, layout, out),
        Format::Json => json(&answer, &wiring, out),
    })?;
    // Taking a million services apart piece by piece takes longer than letting them go with the program.
    std::mem::forget(wiring);
    Ok(answer)
}

/// What a name stands for; otherwise what to say instead.
pub(crate) fn subject(view: &View<'_>, name: &str, kind: Option<Kind>) -> Result<Subject, CommandError> {
    look_up(view.wiring, name, kind).map_err(|unknown| CommandError::Usage(explained(name, kind, unknown)))
}

fn explained(name: &str, kind: Option<Kind>, unknown: Unknown) -> String {
    match unknown {
        Unknown::Several(kinds) => {
            let words: Vec<&str> = kinds.iter().map(|kind| kind.word()).collect();
            format!("{name} is a {}; say which with --kind {}", join_words(&words), words.join("|"))
        }
        Unknown::Nothing { near, sought, type_of } => {
            let what = kind.map_or_else(
                || "nothing here is called".to_owned(),
                |kind| format!("no {} here is called", kind.word()),
            );
            let near: Vec<String> =
                near.iter().map(|(kind, name)| format!("the {} {name}", kind.word())).collect();
            let meant = (!near.is_empty()).then(|| format!("; did you mean {}?", near.join(" or ")));
            let type_of =
                (!type_of.is_empty()).then(|| format!("\n  it is the type of {}", join_words(&type_of)));
            let needs = if sought == 1 { "need names" } else { "needs name" };
            let sought = (sought > 0)
                .then(|| format!("\n  {sought} {needs} it all the same: corvant find {name} --whole"));
            let more: String = [meant, type_of, sought].into_iter().flatten().collect();
            format!("{what} {name}{more}")
        }
    }
}
