"""A notice of the desktop, where it takes any (Desktop Notifications Specification 1.2)."""

from __future__ import annotations

from PySide6.QtDBus import QDBusConnection, QDBusMessage

from fox_hand.base.language import tr

SERVICE, PLACE = "org.freedesktop.Notifications", "/org/freedesktop/Notifications"
STAYS = -1  # as long as the desktop likes


class DesktopNotice:
    """Says something outside of the window; without a desktop that listens nothing happens."""

    def tell(self, title: str, text: str) -> None:
        """Say it."""
        bus = QDBusConnection.sessionBus()
        if not bus.isConnected():
            return
        message = QDBusMessage.createMethodCall(SERVICE, PLACE, SERVICE, "Notify")
        message.setArguments([tr("Fox Hand"), 0, "fox-hand", title, text, [], {}, STAYS])
        bus.send(message)
