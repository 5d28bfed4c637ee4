//! What stops working if something goes.

use super::{Page, words};
use crate::out::Out;
use crate::text::Layout;
use crate::text::words::counted;
use corvant_core::answers::impact::{Affected, Effect, HandedOut, Impact, Lost, StageImpact};
use corvant_core::wiring::Wiring;
use std::io;

/// Writes an impact for people.
pub fn text(impact: &Impact, wiring: &Wiring, layout: Layout, out: &mut Out<'_>) -> io::Result<()> {
    let mut page = Page { wiring, layout, out };
    page.title("without", &impact.gone.join(", "))?;
    let sections = [
        ("start-up fails in", &impact.start_up),
        ("first use fails", &impact.entries),
        ("cannot be built", &impact.services),
        ("gets another", &impact.replaced),
        ("goes on without", &impact.loses),
        ("fails already", &impact.failing_already),
    ];
    let column = sections.iter().map(|(label, _)| label.len()).max().unwrap_or_default();
    let row = |affected: &'_ Affected| format!("{}: {}", affected.name, how(&affected.how));
    for (label, affected) in sections {
        page.rows(label, column, affected.iter().map(|one| (row(one), one.place.as_ref())))?;
    }
    page.rows("at run time", column, impact.handed_out.iter().map(|one| (handed_out(one), None)))?;
    if !impact.modules.is_empty() {
        let modules: Vec<String> =
            impact.modules.iter().map(|(module, count)| format!("{module} {count}")).collect();
        page.row("by module", column, &modules.join(", "), None)?;
    }
    for StageImpact { stage, fails_too, does_not_fail } in &impact.stages {
        let too = fails_too.iter().map(|thing| format!("{} fails too", words::called(thing)));
        let not = does_not_fail.iter().map(|thing| format!("{} does not fail", words::called(thing)));
        page.row(&format!("in {stage}"), column, &too.chain(not).collect::<Vec<_>>().join(", "), None)?;
    }
    let failing = impact.start_up.len() + impact.entries.len() + impact.services.len();
    let changing = impact.replaced.len() + impact.loses.len();
    let ends = if failing + changing + impact.failing_already.len() == 0 {
        let unseen = "nothing that was read needs it; who asks for it at run time is not seen";
        let is_unseen = !impact.handed_out.is_empty();
        if is_unseen { unseen } else { "nothing needs it: nothing stops working" }.to_owned()
    } else {
        let start = match (impact.start_up.is_empty(), impact.failing_already.is_empty()) {
            (true, true) => "the application starts",
            (true, false) => "nothing more fails at start-up",
            (false, _) => "the application does not start",
        };
        let parts = [
            (impact.entries.len(), "entry fails at first use", "entries fail at first use"),
            (impact.services.len(), "service cannot be built", "services cannot be built"),
            (changing, "thing changes and goes on", "things change and go on"),
        ];
        let parts = parts.into_iter().filter(|(count, ..)| *count > 0);
        let parts = parts.map(|(count, one, many)| counted(count, one, many));
        [start.to_owned()].into_iter().chain(parts).collect::<Vec<_>>().join("; ")
    };
    page.line(&ends)
}

/// What whoever asks at run time gets then.
fn handed_out(HandedOut { contract, key, left }: &HandedOut) -> String {
    let asked = format!("{contract}{}", words::under(key.as_deref()));
    match (left, key) {
        (0, _) => format!("whoever asks for {asked} gets nothing"),
        (left, Some(_)) => {
            format!("whoever asks for {asked} gets another; {}", counted(*left, "is left", "are left"))
        }
        (left, None) => format!(
            "whoever asks for all of {asked} gets one fewer: {}",
            counted(*left, "is left", "are left")
        ),
    }
}

/// How something comes to be affected.
pub fn how(effect: &Effect) -> String {
    match effect {
        Effect::Needs { what, manner, later } => {
            let when = if *later { ", so it fails at first use" } else { "" };
            format!("needs {}{}{when}", lost(what), words::in_brackets(&words::manner(*manner)))
        }
        Effect::NamesWhatIsGone => "names what is not there any more".to_owned(),
        Effect::FailsAlready => "needs it and fails as it is".to_owned(),
        Effect::GetsService(id) => format!("would get {id}"),
        Effect::GetsSupplied => "would get what the host platform brings".to_owned(),
        Effect::GoesWithout(what) => format!("goes on without {}, which is optional", lost(what)),
        Effect::CollectsFewer(gone) => match gone.as_slice() {
            [one] => format!("collects one fewer: {}", words::thing(one)),
            [] => String::new(),
            [one, more @ ..] => {
                format!("collects {} fewer: {} and {} more", gone.len(), words::thing(one), more.len())
            }
        },
    }
}

fn lost(lost: &Lost) -> String {
    match lost {
        Lost::Thing(thing) => words::thing(thing),
        Lost::Aim(aim) => words::aim(aim),
    }
}
