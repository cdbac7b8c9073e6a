//! `fclerk manual`: the manual pages, from the same source as `--help`.

use clap::CommandFactory as _;

use crate::exit::{Completion, Failure};
use crate::flags::{Flags, ManualArgs};
use crate::output::print_result;

pub(crate) fn run(args: &ManualArgs) -> Result<Completion, Failure> {
    let folder = &args.output;
    let fail = |error: std::io::Error| {
        Failure::Call(format!("can't write the manual into {}: {error}", folder.display()))
    };
    std::fs::create_dir_all(folder).map_err(fail)?;
    clap_mangen::generate_to(Flags::command(), folder).map_err(fail)?;
    print_result(&format!(
        "The manual is in {}: `man -l {}`\n",
        folder.display(),
        folder.join("fclerk.1").display()
    ))?;
    Ok(Completion::Kept)
}
