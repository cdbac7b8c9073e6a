//! `fclerk explain`: all clauses in a table, one in full.

use crate::harness::Project;

#[test]
fn all_clauses_stand_in_a_table() {
    let run = Project::new().run("explain").exits(0);
    for clause in faithful_clerk_check::clauses::catalogue() {
        assert!(run.stdout.contains(clause.name), "{run}");
    }
    run.says(&format!("{} clauses", faithful_clerk_check::clauses::catalogue().count()));
}

#[test]
fn one_clause_in_full() {
    let run = Project::new().run("explain problem.status-agrees").exits(0);
    insta::assert_snapshot!(run.stdout);
}

#[test]
fn every_clause_can_be_explained() {
    let project = Project::new();
    for clause in faithful_clerk_check::clauses::catalogue() {
        let run = project.run(&format!("explain {}", clause.name)).exits(0);
        run.says("Basis").says("How to fix").says("Broken:").says("Met:");
    }
}

#[test]
fn a_mistyped_name_finds_its_clause() {
    let project = Project::new();
    project
        .run("explain problem.status-agree")
        .exits(2)
        .complains("did you mean `problem.status-agrees`?");
    project.run("explain weather").exits(2).complains("`fclerk explain` lists all clauses");
}
