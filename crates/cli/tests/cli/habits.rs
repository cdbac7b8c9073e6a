//! What people expect of any command-line program.

use faithful_clerk_check::clauses::HARBOUR;
use serde_json::json;

use crate::harness::{Project, got};

#[test]
fn shells_get_their_completions() {
    let project = Project::new();
    for shell in ["bash", "zsh", "fish", "powershell", "elvish"] {
        let script = project.run(&format!("completions {shell}")).exits(0).stdout;
        for word in ["check", "merge", "handbook", "fail-on"] {
            assert!(script.contains(word), "{word} in {shell}");
        }
    }
}

#[test]
fn the_manual_has_a_page_for_each_command() {
    let project = Project::new();
    project.run("manual --output man").exits(0);
    for name in ["fclerk", "fclerk-check", "fclerk-merge", "fclerk-handbook", "fclerk-scrub"] {
        let page = std::fs::read_to_string(project.path().join(format!("man/{name}.1"))).unwrap();
        assert!(page.contains(".TH"), "{name}");
    }
    let check = std::fs::read_to_string(project.path().join("man/fclerk-check.1")).unwrap();
    assert!(check.contains("write\\-waivers"), "{check}");
}

#[test]
fn the_contract_is_found_in_the_folders_above() {
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    std::fs::create_dir_all(project.path().join("deep/er")).unwrap();
    let within = |call: &str| {
        let mut command = project.command(call);
        command.current_dir(project.path().join("deep/er"));
        let output = command.output().unwrap();
        (output.status.code(), String::from_utf8(output.stdout).unwrap())
    };
    let (code, text) = within("check ../../after.har");
    assert_eq!(code, Some(1));
    assert_eq!(text.replace("../../", ""), project.run("check after.har").stdout);
    assert_eq!(within("coverage ../../after.har").0, Some(0));
    assert_eq!(within("handbook --output book").0, Some(0));
    // The nearest one wins, and the one that is named wins over all.
    std::fs::write(project.path().join("deep/error-contract.toml"), "contract = 7").unwrap();
    assert_eq!(within("check ../../after.har").0, Some(2));
    assert_eq!(within("check --contract ../../error-contract.toml ../../after.har").0, Some(1));
}

/// Nobody else's contract is taken for one's own: not that of a folder that anybody may write into, and not one
/// above the repository.
#[cfg(unix)]
#[test]
fn somebody_elses_contract_is_passed_over() {
    use std::os::unix::fs::PermissionsExt as _;
    let project = Project::new();
    project.run("demo --files-only --output demo").exits(0);
    let contract = std::fs::read(project.path().join("demo/error-contract.toml")).unwrap();
    for (folder, mode, code) in [("open", 0o777, 2), ("closed", 0o755, 1)] {
        project.write(&format!("{folder}/error-contract.toml"), &contract);
        let within = project.path().join(folder).join("within");
        std::fs::create_dir(&within).unwrap();
        let permissions = std::fs::Permissions::from_mode(mode);
        std::fs::set_permissions(project.path().join(folder), permissions).unwrap();
        let mut command = project.command("check ../../demo/after.har");
        assert_eq!(
            command.current_dir(&within).output().unwrap().status.code(),
            Some(code),
            "{folder}"
        );
        std::fs::create_dir(within.join(".git")).unwrap();
        let mut command = project.command("check ../../demo/after.har");
        assert_eq!(
            command.current_dir(&within).output().unwrap().status.code(),
            Some(2),
            "{folder}"
        );
    }
}

#[test]
fn a_verbose_run_tells_what_it_does_on_standard_error() {
    let project = Project::new();
    project.run("demo --files-only --output .").exits(0);
    let quiet = project.run("check after.har");
    assert_eq!(quiet.stderr, "");
    let verbose = project.run("check -v after.har --report json=a.json");
    assert_eq!(verbose.stdout, quiet.stdout);
    let verbose = verbose.complains("contract read").complains("reading").complains("after.har");
    assert!(verbose.stderr.contains("report written"), "{verbose}");
    assert!(!verbose.stderr.contains('\u{1b}'), "{verbose}");
    let silent = project.run("check -q after.har").exits(1);
    assert_eq!((silent.stdout.as_str(), silent.stderr.as_str()), ("", ""));
}

#[test]
fn what_was_mistyped_gets_a_suggestion() {
    let project =
        Project::with(HARBOUR, &[got("GET", "/berths/A-3", 200, "application/json", "{}")]);
    for (call, near) in [
        ("chek a.har", "check"),
        ("check --contrct x a.har", "--contract"),
        ("check --report sraif=x a.har", "did you mean sarif?"),
        ("explain problem.status-agree", "problem.status-agrees"),
        ("check --color alway a.har", "always"),
    ] {
        project.run(call).exits(2).complains(near);
    }
    let waiver = "\n[[waiver]]\nclause = \"media.declare\"\nendpoint = \"GET /berth/{id}\"\nreason = \"x\"\nuntil = 2999-01-01\n";
    project.write("error-contract.toml", format!("{HARBOUR}{waiver}"));
    project
        .run("check a.har")
        .exits(2)
        .complains("media.declared")
        .complains("did you mean `GET /berths/{id}`?");
}

/// An address from a result can be given to the next command as it stands, and so can a row's name to a waiver.
#[test]
fn what_is_printed_can_be_pasted_back() {
    let project = Project::with(HARBOUR, &[got("GET", "/nowhere", 404, "text/html", "<p>no</p>")]);
    let check = project.checked();
    let address = check["findings"][0]["addresses"][0].as_str().unwrap();
    project.run(&format!("show {address}")).exits(0).says("media.declared");
    let name = &check["findings"][0]["endpoint"];
    assert_eq!(*name, json!("(unknown route)"));
    let waiver = format!(
        "\n[[waiver]]\nclause = \"media.declared\"\nendpoint = {name}\nreason = \"x\"\nuntil = 2999-01-01\n"
    );
    project.write("error-contract.toml", format!("{HARBOUR}{waiver}"));
    project.run("check a.har").exits(0).says("1 waived");
}
