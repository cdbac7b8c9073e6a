//! A service behind TLS is recorded as any other.

use std::io::{Read, Write};
use std::net::TcpListener;
use std::sync::Arc;

use crate::harness::Project;
use crate::record::{Recorder, entries, send, text};

/// Over TLS, with a certificate that the machine trusts.
#[test]
fn a_service_behind_tls_is_reached() {
    let _ = rustls::crypto::ring::default_provider().install_default();
    let signed = rcgen::generate_simple_self_signed(["localhost".to_owned()]).unwrap();
    let project = Project::new();
    let trusted = project.path().join("trusted.pem");
    std::fs::write(&trusted, signed.cert.pem()).unwrap();
    let key = rustls::pki_types::PrivateKeyDer::try_from(signed.signing_key.serialize_der());
    let config = rustls::ServerConfig::builder()
        .with_no_client_auth()
        .with_single_cert(vec![signed.cert.der().clone()], key.unwrap())
        .unwrap();
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    let port = listener.local_addr().unwrap().port();
    let config = Arc::new(config);
    std::thread::spawn(move || {
        for mut stream in listener.incoming().flatten() {
            let mut connection = rustls::ServerConnection::new(Arc::clone(&config)).unwrap();
            let mut tls = rustls::Stream::new(&mut connection, &mut stream);
            if tls.read(&mut [0; 4096]).is_ok() {
                let _ = tls.write_all(b"HTTP/1.1 200 OK\r\nContent-Length: 2\r\n\r\n{}");
                let _ = tls.read(&mut [0; 4096]);
            }
        }
    });
    for (trusts, status) in [(true, "200 OK"), (false, "502 Bad Gateway")] {
        let save = format!("{trusts}.jsonl");
        let mut command = project.command(&format!(
            "record --listen 127.0.0.1:0 --upstream https://localhost:{port} --output {save}"
        ));
        if trusts {
            command.env("SSL_CERT_FILE", &trusted);
        }
        let recorder = Recorder::spawn(command, "tls");
        let got = text(&send(&recorder.address, b"GET / HTTP/1.1\r\nHost: localhost\r\n\r\n"));
        assert!(got.contains(status), "{got}");
        recorder.stop().exits(0);
        let entry = &entries(&project, &save)[0];
        assert_eq!(entry["request"]["url"], format!("https://localhost:{port}/"));
        assert_eq!(entry["response"]["_error"].is_string(), !trusts, "{entry}");
    }
}
