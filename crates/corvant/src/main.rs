//! The program: arguments in, an exit status out.

mod allowances;
mod cache;
mod cli;
mod commands;
mod complete;
mod demo;
mod exit;
mod files;
mod output;
mod patch;
mod progress;
mod threads;

use clap::Parser;
use mimalloc::MiMalloc;
use std::process::ExitCode;

/// Reading is many small pieces of memory on all threads; the system's own allocator takes a fifth longer for them.
#[global_allocator]
static ALLOCATOR: MiMalloc = MiMalloc;

fn main() -> ExitCode {
    exit::fail_with_status_3_on_panic();
    progress::end_cleanly_when_interrupted();
    complete::answer_shells();
    match commands::run(cli::Arguments::parse()) {
        Ok(status) => status,
        Err(error) => exit::complain(&error),
    }
}
