//! Encrypted connections, as far as libpq would trust them (PostgreSQL documentation, 34.19).

use super::settings::{Secrecy, Settings};
use rustls::client::WebPkiServerVerifier;
use rustls::client::danger::{HandshakeSignatureValid, ServerCertVerified, ServerCertVerifier};
use rustls::crypto::{CryptoProvider, ring, verify_tls12_signature, verify_tls13_signature};
use rustls::pki_types::pem::PemObject;
use rustls::pki_types::{CertificateDer, ServerName, UnixTime};
use rustls::{CertificateError, ClientConfig, DigitallySignedStruct, Error, RootCertStore, SignatureScheme};
use std::sync::Arc;
use tokio_postgres_rustls::MakeRustlsConnect;

/// What makes a connection secret, and checks the server as far as that is wanted.
pub(super) fn connector(settings: &Settings) -> Result<MakeRustlsConnect, String> {
    let provider = Arc::new(ring::default_provider());
    let failed = |error: Error| error.to_string();
    let builder = ClientConfig::builder_with_provider(provider.clone())
        .with_safe_default_protocol_versions()
        .map_err(failed)?;
    let config = match settings.secrecy {
        Secrecy::TrustedHost => builder.with_root_certificates(roots(settings)?),
        secrecy => {
            let chain = match secrecy {
                Secrecy::Trusted => {
                    let roots = Arc::new(roots(settings)?);
                    let verifier = WebPkiServerVerifier::builder_with_provider(roots, provider.clone());
                    Some(verifier.build().map_err(|error| error.to_string())?)
                }
                _ => None,
            };
            let verifier = Arc::new(Partly { chain, provider });
            builder.dangerous().with_custom_certificate_verifier(verifier)
        }
    };
    Ok(MakeRustlsConnect::new(config.with_no_client_auth()))
}

/// The certificates that are trusted: those of the file that is named, or those of this machine.
fn roots(settings: &Settings) -> Result<RootCertStore, String> {
    let mut roots = RootCertStore::empty();
    match &settings.trusted {
        Some(file) => {
            let unread =
                |why: String| format!("the certificates of {} cannot be read: {why}", file.display());
            for certificate in
                CertificateDer::pem_file_iter(file).map_err(|error| unread(error.to_string()))?
            {
                let certificate = certificate.map_err(|error| unread(error.to_string()))?;
                roots.add(certificate).map_err(|error| unread(error.to_string()))?;
            }
        }
        None => {
            roots.add_parsable_certificates(rustls_native_certs::load_native_certs().certs);
        }
    }
    if roots.is_empty() { Err("there is no certificate to trust".to_owned()) } else { Ok(roots) }
}

/// Checks no more than what `sslmode` asks for: nothing but the secrecy (`require`), or the chain of certificates without
/// the name of the host (`verify-ca`).
#[derive(Debug)]
struct Partly {
    chain: Option<Arc<WebPkiServerVerifier>>,
    provider: Arc<CryptoProvider>,
}

impl ServerCertVerifier for Partly {
    fn verify_server_cert(
        &self,
        own: &CertificateDer<'_>,
        between: &[CertificateDer<'_>],
        name: &ServerName<'_>,
        response: &[u8],
        now: UnixTime,
    ) -> Result<ServerCertVerified, Error> {
        let Some(chain) = &self.chain else { return Ok(ServerCertVerified::assertion()) };
        match chain.verify_server_cert(own, between, name, response, now) {
            Err(Error::InvalidCertificate(
                CertificateError::NotValidForName | CertificateError::NotValidForNameContext { .. },
            )) => Ok(ServerCertVerified::assertion()),
            verified => verified,
        }
    }

    fn verify_tls12_signature(
        &self,
        message: &[u8],
        certificate: &CertificateDer<'_>,
        signed: &DigitallySignedStruct,
    ) -> Result<HandshakeSignatureValid, Error> {
        verify_tls12_signature(message, certificate, signed, &self.provider.signature_verification_algorithms)
    }

    fn verify_tls13_signature(
        &self,
        message: &[u8],
        certificate: &CertificateDer<'_>,
        signed: &DigitallySignedStruct,
    ) -> Result<HandshakeSignatureValid, Error> {
        verify_tls13_signature(message, certificate, signed, &self.provider.signature_verification_algorithms)
    }

    fn supported_verify_schemes(&self) -> Vec<SignatureScheme> {
        self.provider.signature_verification_algorithms.supported_schemes()
    }
}
