//! Prints the made-up description that docs/speed.md speaks of: 1,200 operations, 13 MB.

#![allow(clippy::print_stdout, reason = "it is what this is for")]

use faithful_clerk_testkit::DescribedService;

fn main() {
    println!("{:#}", DescribedService::large().description());
}
