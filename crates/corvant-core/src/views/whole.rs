//! What rules look at that do not run on a part of a stage.

use super::allow::Allowed;
use super::context::Context;
use super::lacks::{Lack, Meaning};
use super::lookup::Lookup;
use super::mentions::{Mentioned, called_services, mentioned_modules};
use super::modules::{Crossing, Crossings, ModuleCycles};
use super::offering::innermost_offers;
use super::said_uses::SaidUses;
use super::sink::Sink;
use super::troubles::report_troubles;
use super::usage::Usage;
use crate::facts::{Trouble, TroubleKind};
use crate::finding::RuleText;
use crate::index::QuestionIndex;
use crate::name::Name;
use crate::resolve::Offer;
use crate::wiring::Wiring;
use std::borrow::Cow;
use std::ops::Deref;

macro_rules! looks_up {
    ($($view:ident),*) => {
        $(impl<'a> Deref for $view<'a> {
            type Target = Lookup<'a>;

            fn deref(&self) -> &Self::Target {
                &self.lookup
            }
        })*
    };
}

looks_up! { FilesView, WholeStageView, WorkspaceView, AllowancesView }

/// The files, and what was wrong with reading them.
#[derive(Debug)]
pub(crate) struct FilesView<'a> {
    lookup: Lookup<'a>,
}

impl<'a> FilesView<'a> {
    pub(crate) fn new(context: &'a Context<'a>) -> Self {
        Self { lookup: Lookup { context } }
    }

    /// What was wrong with reading the files.
    pub(crate) fn troubles(&self) -> &'a [Trouble] {
        &self.context.wiring.facts.troubles
    }

    /// Reports the troubles of a kind under a rule, each with what is missing because of it.
    pub(crate) fn report_troubles(&self, rule: &'static RuleText, kind: TroubleKind, sink: &mut Sink) {
        report_troubles(rule, kind, self.context, sink);
    }
}

/// A stage as a whole.
#[derive(Debug)]
pub(crate) struct WholeStageView<'a> {
    lookup: Lookup<'a>,
}

impl<'a> WholeStageView<'a> {
    pub(crate) fn new(context: &'a Context<'a>) -> Self {
        Self { lookup: Lookup { context } }
    }

    /// The wiring.
    pub(crate) fn wiring(&self) -> &'a Wiring {
        self.context.wiring
    }

    /// Who seeks the answer to a question.
    pub(crate) fn lack_of(&self, question: QuestionIndex) -> Option<&'a Lack> {
        self.context.lacks.question(question)
    }

    /// By what is handed out for a contract the innermost definition that offers it.
    pub(crate) fn innermost_offers(&self, contract: Name) -> Vec<Offer> {
        innermost_offers(self.context, contract)
    }

    /// Needs of one module that another answers for, of whatever stage: ask [`Self::is_in_effect`].
    pub(crate) fn crossings(&self) -> &'a Crossings {
        self.context.crossings()
    }

    /// Whether the one that has a need is there in this stage, or may be.
    pub(crate) fn is_in_effect(&self, crossing: &Crossing) -> bool {
        crossing.is_in_effect(self.context.wiring, self.resolution())
    }

    /// Modules that need one another in a cycle, in order of their names, each cycle with the size of its cycle group.
    pub(crate) fn module_cycles(&self) -> Cow<'a, ModuleCycles> {
        self.context.module_cycles()
    }
}

/// All stages together, by the wiring with none chosen and by what is used in any.
#[derive(Debug)]
pub(crate) struct WorkspaceView<'a> {
    lookup: Lookup<'a>,
    usage: &'a Usage,
}

impl<'a> WorkspaceView<'a> {
    pub(crate) fn new(context: &'a Context<'a>, usage: &'a Usage) -> Self {
        Self { lookup: Lookup { context }, usage }
    }

    /// The wiring.
    pub(crate) fn wiring(&self) -> &'a Wiring {
        self.context.wiring
    }

    /// What is used in any stage.
    pub(crate) fn usage(&self) -> &'a Usage {
        self.usage
    }

    /// Whether a provider registers an id that nothing defines.
    pub(crate) fn is_empty_promise(&self, id: Name) -> bool {
        self.context.lacks.promised.contains_key(&id)
    }

    /// What such an id was probably meant to be.
    pub(crate) fn promised(&self, id: Name) -> Option<Meaning> {
        self.context.lacks.promised.get(&id).copied().flatten()
    }

    /// By name whether something asks for the service of that id by it.
    pub(crate) fn called_services(&self) -> Vec<bool> {
        called_services(self.context, self.usage)
    }

    /// Where modules say that they use others.
    pub(crate) fn said_uses(&self) -> SaidUses {
        SaidUses::new(self.context.wiring)
    }

    /// Which modules speak of anything that others define, declare, offer or collect.
    pub(crate) fn mentioned_modules(&self) -> Mentioned<'a> {
        mentioned_modules(self.context, self.usage)
    }
}

/// What allowances accepted, when all else is reported.
#[derive(Debug)]
pub(crate) struct AllowancesView<'a> {
    lookup: Lookup<'a>,
    allowed: &'a Allowed,
}

impl<'a> AllowancesView<'a> {
    pub(crate) fn new(context: &'a Context<'a>, allowed: &'a Allowed) -> Self {
        Self { lookup: Lookup { context }, allowed }
    }

    /// The wiring.
    pub(crate) fn wiring(&self) -> &'a Wiring {
        self.context.wiring
    }

    /// What was accepted, by allowance.
    pub(crate) fn allowed(&self) -> &'a Allowed {
        self.allowed
    }
}
