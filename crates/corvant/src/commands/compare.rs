//! `corvant compare`

use super::{audit, state};
use crate::cli::{CompareFormat, CompareOptions, Looking, Telling};
use crate::exit::{self, CommandError};
use crate::output;
use crate::progress::Shown;
use corvant_core::answers::View;
use corvant_core::audit::{Report, Resolved};
use corvant_core::compare::{self, Comparison};
use corvant_core::finding::Severity;
use corvant_core::wiring::Wiring;
use corvant_read::edit;
use corvant_read::workspace::Workspace;
use corvant_render::changes::{self, Compared, Side, Supposing};
use corvant_render::documents::comparison;
use corvant_render::page::{self, Circumstances};
use state::Among;

pub(crate) fn run(old: &str, new: Option<&str>, options: &CompareOptions) -> Result<u8, CommandError> {
    let shown = Shown::begin(options.telling.to.screen.quiet);
    let among = Among::new(&options.root);
    let (old, new) = among.both(old, new)?;
    let only_findings = options.telling.format != CompareFormat::Html;
    let (before, after, clearing) = among.read_both(&old, &new, (&options.looking, only_findings), &shown)?;
    let (before, after) = audited(before, after, &options.looking)?;
    let paths = after.wiring.paths();
    output::keep_inputs(options.telling.to.output.as_deref(), &options.root, paths)?;
    let names = (old.name(), new.name());
    let status =
        tell(&before, &after, (&names.0, &names.1), Supposing::default(), &options.telling, Some(shown));
    // Taking two large states apart takes longer than letting them go with the program.
    std::mem::forget((before, after));
    drop(clearing);
    status
}

/// A state with what an audit finds in it.
pub(crate) struct Audited {
    pub(crate) wiring: Wiring,
    pub(crate) report: Report,
    resolved: Resolved,
}

impl Audited {
    fn side<'a>(&'a self, name: &'a str) -> Side<'a> {
        Side { name, wiring: &self.wiring, report: &self.report }
    }
}

/// Two states with what an audit finds in them, fixes spelt out.
pub(crate) fn audited(
    before: Workspace,
    after: Workspace,
    looking: &Looking,
) -> Result<(Audited, Audited), CommandError> {
    let audited = |state: Workspace| -> Result<Audited, CommandError> {
        let (wiring, mut report, resolved) = audit::look_beside(state, looking)?;
        edit::spell_out(&mut report.findings, &wiring);
        Ok(Audited { wiring, report, resolved })
    };
    // Some steps of an audit are for one thread alone.
    let (before, after) = rayon::join(|| audited(before), || audited(after));
    let (before, after) = (before?, after?);
    if let Some(stage) = &looking.stage {
        let found = audit::find_stage(&after.wiring, stage);
        found.or_else(|error| audit::find_stage(&before.wiring, stage).map_err(|_| error))?;
    }
    Ok((before, after))
}

/// Compares two states, writes what is another, and gives the exit status.
pub(crate) fn tell(
    before: &Audited,
    after: &Audited,
    names: (&str, &str),
    supposed: Supposing<'_>,
    telling: &Telling,
    shown: Option<Shown>,
) -> Result<u8, CommandError> {
    let [old, new] = [before, after].map(|state| View::of(&state.wiring, state.resolved.clone()));
    let state = |view, report| compare::State { view, report };
    let comparison = compare::compare(state(&old, &before.report), state(&new, &after.report));
    let compared = Compared {
        old: before.side(names.0),
        new: after.side(names.1),
        comparison: &comparison,
        with_values: telling.values,
        supposed,
    };
    let is_failing = is_failing(&comparison, &after.report, telling.fail_on.severity());
    drop(shown);
    output::write(&telling.to, |layout, out| match telling.format {
        CompareFormat::Text => changes::write_text(compared, telling.limit, layout, out),
        CompareFormat::Json => comparison::write(compared, out),
        CompareFormat::Html => {
            let of = Circumstances { root: names.1, is_failing, compared: Some(compared) };
            page::write(&after.report, &new, of, out)
        }
        CompareFormat::Markdown => changes::write_markdown(compared, is_failing, out),
    })?;
    let fails = is_failing || telling.exit_on_change && !comparison.is_empty();
    Ok(if fails { exit::FINDINGS } else { exit::CLEAN })
}

/// Whether a finding that fails is new, or worse than before.
fn is_failing(comparison: &Comparison, report: &Report, fail_on: Option<Severity>) -> bool {
    let fresh = comparison.findings.new.iter().chain(&comparison.findings.worse);
    let mut severities = fresh.map(|change| report.findings[change.number].severity);
    fail_on.is_some_and(|fail_on| severities.any(|severity| severity <= fail_on))
}
