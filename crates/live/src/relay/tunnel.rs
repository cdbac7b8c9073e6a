//! Bytes that pass without being looked at: behind an upgrade, or through the proxy.

use tokio::io::{AsyncRead, AsyncWrite, AsyncWriteExt as _, copy};
use tokio::time::timeout;

use super::exchange::{ConnectionSide, STUCK, ServiceConnection};
use super::listen::RelayState;

/// Passes bytes both ways until both sides have ended, or one has for a while, or all is stopped.
pub(super) async fn tunnel<R, W>(
    client: &mut ConnectionSide<R>,
    to_client: &mut W,
    service: &mut ServiceConnection,
    shared: &RelayState,
) where
    R: AsyncRead + Unpin,
    W: AsyncWrite + Unpin,
{
    let ServiceConnection { from, to, .. } = service;
    let up = async {
        let ahead = std::mem::take(&mut client.ahead);
        if to.write_all(&ahead).await.is_ok() && to.flush().await.is_ok() {
            let _ = copy(&mut client.from, to).await;
        }
        let _ = to.shutdown().await;
    };
    let down = async {
        let ahead = std::mem::take(&mut from.ahead);
        if to_client.write_all(&ahead).await.is_ok() && to_client.flush().await.is_ok() {
            let _ = copy(&mut from.from, to_client).await;
        }
        let _ = to_client.shutdown().await;
    };
    let both = async {
        let (mut up, mut down) = (std::pin::pin!(up), std::pin::pin!(down));
        tokio::select! {
            () = &mut up => drop(timeout(STUCK, down).await),
            () = &mut down => drop(timeout(STUCK, up).await),
        }
    };
    tokio::select! {
        () = both => {}
        () = shared.stopping() => {}
    }
}
