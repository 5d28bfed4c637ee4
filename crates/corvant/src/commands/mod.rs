//! One module a command.

mod accept;
mod asked;
mod audit;
mod compare;
mod demo;
mod explain;
mod find;
mod fix;
mod graph;
mod impact;
mod order;
mod report;
mod rules;
mod schema;
mod show;
mod start;
mod state;
mod suppose;
mod why;

use crate::cli::{Arguments, Command};
use crate::exit::CommandError;
use crate::threads;
use std::process::ExitCode;

/// Runs a command, and gives the program's exit status.
pub(crate) fn run(arguments: Arguments) -> Result<ExitCode, CommandError> {
    threads::begin(arguments.threads)?;
    let status = match arguments.command {
        Command::Audit { root, explain_readers: true, tree: true, options, .. } => {
            explain::tree(&root, &options)?
        }
        Command::Audit { root, explain_readers: true, reader, options, .. } => {
            explain::run(&root, reader.as_deref(), &options)?
        }
        Command::Audit { root, options, .. } => audit::run(&root, &options)?,
        Command::Show { name, kind, asking } => show::run(&name, kind, &asking)?,
        Command::Find { text, regex, whole, asking } => find::run(&text, regex, whole, &asking)?,
        Command::Why { from, to, limit, asking } => why::run(&from, &to, limit.get() - 1, &asking)?,
        Command::Order { entry, asking } => order::run(entry.as_deref(), &asking)?,
        Command::Impact { names, kind, asking } => impact::run(&names, kind, &asking)?,
        Command::Graph { name, drawing } => graph::run(name.as_deref(), &drawing)?,
        Command::Compare { old, new, options } => compare::run(&old, new.as_deref(), &options)?,
        Command::Suppose { changes, options } => suppose::run(&changes, &options)?,
        Command::Report { root, output, looking } => report::run(&root, &output, &looking)?,
        Command::Accept { root, options } => accept::run(&root, &options)?,
        Command::Start { root, write, output, screen } => {
            start::run(&root, write, output.as_deref(), &screen)?
        }
        Command::Fix { root, options } => fix::run(&root, &options)?,
        Command::Schema { what, output } => schema::run(what, output.as_deref())?,
        Command::Completions { shell } => schema::completions(shell)?,
        Command::Manual => schema::manual()?,
        Command::Rules { name, writing } => rules::run(name.as_deref(), &writing)?,
        Command::Demo { write: Some(folder), history: true, .. } => demo::write_history(&folder)?,
        Command::Demo { write: Some(folder), fixed, .. } => demo::write(&folder, fixed)?,
        Command::Demo { write: None, fixed, options, .. } => demo::run(fixed, &options)?,
    };
    Ok(ExitCode::from(status))
}
