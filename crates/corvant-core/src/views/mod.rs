//! What rules may look at: one view for each scope, with what that scope has and nothing else.
//!
//! All of them are windows on one [`Context`], which rules never see. A rule that runs on a part of a stage is not
//! given the whole wiring: what it would find there is not of that part.

mod allow;
mod clash;
mod clashes;
mod context;
mod dormant;
mod doubts;
mod focus;
mod installations;
mod lacks;
mod lookup;
mod mentions;
mod modules;
mod offering;
mod references;
mod registrars;
mod said_uses;
mod sink;
mod stage;
mod troubles;
mod typed;
mod usage;
mod whole;

pub(crate) use crate::wiring::types::{Types, short, with_dots, written_as};
pub(crate) use allow::Allowed;
pub(crate) use clash::Clash;
pub(crate) use context::{Aids, Context};
pub(crate) use dormant::DormantKind;
pub(crate) use focus::Focus;
pub(crate) use installations::Installations;
pub(crate) use lacks::{Lack, Sought};
pub(crate) use lookup::counted;
pub(crate) use references::missing_references;
pub(crate) use registrars::Registrars;
pub(crate) use sink::Sink;
pub(crate) use stage::StageView;
pub(crate) use typed::{Typed, typed_services};
pub(crate) use usage::{Usage, Used};
pub(crate) use whole::{AllowancesView, FilesView, WholeStageView, WorkspaceView};

/// What a rule does: looks at what its scope shows, and reports.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Check {
    /// Looks at the files themselves.
    Files(fn(&FilesView<'_>, &mut Sink)),
    /// Looks at a part of a stage, or all of it.
    Stage(fn(&StageView<'_>, &mut Sink)),
    /// Looks at a stage as a whole.
    WholeStage(fn(&WholeStageView<'_>, &mut Sink)),
    /// Looks at all stages together.
    Workspace(fn(&WorkspaceView<'_>, &mut Sink)),
    /// Looks at what allowances accepted.
    Allowances(fn(&AllowancesView<'_>, &mut Sink)),
}
