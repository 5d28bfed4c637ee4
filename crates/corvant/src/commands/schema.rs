//! `corvant schema`, `completions` and `manual`: what other tools are told of this one.

use crate::cli::{Arguments, SchemaOf};
use crate::complete;
use crate::exit::{self, CommandError};
use crate::output;
use clap::CommandFactory;
use clap_complete::Shell;
use corvant_read::native::schema;
use corvant_render::documents::{
    accounts::AccountsDocument, comparison::ComparisonDocument, graph::GraphDocument, impact::ImpactDocument,
    mentions::MentionsDocument, order::OrderDocument, report::ReportDocument, rules::RulesDocument,
    schema as document, sheet::SheetDocument, why::WhyDocument,
};
use std::path::Path;

pub(crate) fn run(what: SchemaOf, file: Option<&Path>) -> Result<u8, CommandError> {
    let schema = match what {
        SchemaOf::Manifest => schema::manifest(),
        SchemaOf::Workspace => schema::workspace_file(),
        SchemaOf::Report => document::<ReportDocument<'_>>(),
        SchemaOf::Show => document::<SheetDocument<'_>>(),
        SchemaOf::Find => document::<MentionsDocument<'_>>(),
        SchemaOf::Why => document::<WhyDocument<'_>>(),
        SchemaOf::Order => document::<OrderDocument<'_>>(),
        SchemaOf::Impact => document::<ImpactDocument<'_>>(),
        SchemaOf::Graph => document::<GraphDocument<'_>>(),
        SchemaOf::Compare => document::<ComparisonDocument<'_>>(),
        SchemaOf::Readers => document::<AccountsDocument<'_>>(),
        SchemaOf::Rules => document::<RulesDocument<'_>>(),
    };
    output::write_own(file, |out| writeln!(out, "{schema:#}"))?;
    Ok(exit::CLEAN)
}

pub(crate) fn completions(shell: Shell) -> Result<u8, CommandError> {
    let script = complete::script(shell)
        .map_err(|reason| CommandError::Output { path: "standard output".to_owned(), reason })?;
    output::write_own(None, |out| out.write_all(&script))?;
    Ok(exit::CLEAN)
}

pub(crate) fn manual() -> Result<u8, CommandError> {
    output::write_own(None, |out| clap_mangen::Man::new(Arguments::command()).render(out))?;
    Ok(exit::CLEAN)
}
