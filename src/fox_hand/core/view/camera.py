"""A camera that turns about a point, and where it puts things on a picture."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from fox_hand.core.maths.rotations import Array


@dataclass(frozen=True)
class Camera:
    """Looks at ``target`` from ``distance`` away.

    Args:
        target: world metres.
        yaw: radians about Y; 0 looks at the figure's front, positive sees its own left.
        pitch: radians; positive looks down.
        distance: metres from the target.
        fov: vertical angle of view in radians; 28 degrees, a narrow lens flatters faces.
        roll: radians the picture is turned by.
        shift: where the middle of the picture looks past the target, in half pictures; this is
            how a picture can be an exact cut-out of a larger one.
    """

    target: tuple[float, float, float] = (0.0, 1.0, 0.0)
    yaw: float = 0.0
    pitch: float = 0.05
    distance: float = 4.0
    fov: float = float(np.radians(28.0))
    roll: float = 0.0
    shift: tuple[float, float] = (0.0, 0.0)

    @property
    def eye(self) -> Array:
        """World position of the camera, ``(3,)`` in metres."""
        away = np.array(
            [
                np.sin(self.yaw) * np.cos(self.pitch),
                np.sin(self.pitch),
                np.cos(self.yaw) * np.cos(self.pitch),
            ]
        )
        return np.asarray(np.asarray(self.target) + away * self.distance)

    def view(self) -> Array:
        """World to camera, ``(4, 4)``; the camera looks along its -Z."""
        z = (self.eye - np.asarray(self.target)) / self.distance
        x = np.cross([0.0, 1.0, 0.0], z)
        x /= max(float(np.linalg.norm(x)), 1e-9)
        y = np.cross(z, x)
        c, s = np.cos(self.roll), np.sin(self.roll)
        m = np.eye(4)
        m[0, :3], m[1, :3], m[2, :3] = c * x + s * y, c * y - s * x, z
        m[:3, 3] = -m[:3, :3] @ self.eye
        return m

    def projection(self, aspect: float) -> Array:
        """Camera to clip space ``(4, 4)``, as glTF 2.0 (3.10.3.1) defines a perspective camera."""
        near, far = max(self.distance * 0.02, 1e-3), self.distance * 4.0 + 20.0
        f = 1.0 / np.tan(self.fov / 2)
        m = np.zeros((4, 4))
        m[0, 0], m[1, 1] = f / aspect, f
        m[0, 2], m[1, 2] = self.shift
        m[2, 2], m[2, 3] = (far + near) / (near - far), 2 * far * near / (near - far)
        m[3, 2] = -1.0
        return m

    def project(self, points: npt.ArrayLike, width: float, height: float) -> Array:
        """World points as picture x, y (pixels from the top left) and depth in metres, ``(N, 3)``.

        Args:
            points: world metres ``(N, 3)``.
            width, height: of the picture, in pixels.
        """
        points = np.atleast_2d(np.asarray(points, dtype=np.float64))
        m = self.projection(width / height) @ self.view()
        clip = points @ m[:, :3].T + m[:, 3]
        w = np.where(np.abs(clip[:, 3]) > 1e-9, clip[:, 3], 1e-9)
        x = (clip[:, 0] / w * 0.5 + 0.5) * width
        y = (0.5 - clip[:, 1] / w * 0.5) * height
        return np.stack([x, y, clip[:, 3]], axis=1)

    def metres_per_pixel(self, height: float, depth: float | None = None) -> float:
        """Size of one pixel at a depth (at the target by default)."""
        far = self.distance if depth is None else depth
        return float(2 * np.tan(self.fov / 2) * far / height)

    def cut_out(self, x: float, y: float, side: float, width: float, height: float) -> Camera:
        """The camera whose square picture is exactly a square of this one's picture.

        Args:
            x, y: middle of the square in pixels from the top left.
            side: its edge in pixels.
            width, height: size of this camera's picture.
        """
        half = side / height
        aspect = width / height
        across = 2 * x / width - 1 + self.shift[0]
        upwards = 1 - 2 * y / height + self.shift[1]
        return replace(
            self,
            fov=float(2 * np.arctan(np.tan(self.fov / 2) * half)),
            shift=(float(across * aspect / half), float(upwards / half)),
        )

    def turned(self, angle: float) -> Camera:
        """The camera of a square picture turned about its own middle.

        Args:
            angle: radians, counterclockwise as the picture is seen.
        """
        c, s = float(np.cos(angle)), float(np.sin(angle))
        x, y = self.shift
        return replace(self, roll=self.roll + angle, shift=(c * x + s * y, c * y - s * x))

    def moved(self, transform: Array) -> Camera:
        """The camera that sees a moved thing as this one saw it before.

        Args:
            transform: how the thing was moved and turned, without scale, ``(4, 4)``.
        """
        turn, eye = transform[:3, :3], transform[:3, :3] @ self.eye + transform[:3, 3]
        right, _, back = self.view()[:3, :3]
        found = self.looking(turn @ back, turn @ right)
        x, y, z = (eye - turn @ back * self.distance).tolist()
        return replace(found, target=(x, y, z))

    def looking(self, back: Array, right: Array) -> Camera:
        """In another direction.

        Args:
            back: unit vector from what is looked at to the camera, ``(3,)``.
            right: unit vector to the picture's right, across it, ``(3,)``.
        """
        flat = replace(
            self,
            yaw=float(np.arctan2(back[0], back[2])),
            pitch=float(np.arcsin(np.clip(back[1], -1.0, 1.0))),
            roll=0.0,
        )
        x, y = flat.view()[0, :3], flat.view()[1, :3]
        return replace(flat, roll=float(np.arctan2(right @ y, right @ x)))

    def orbit(self, dyaw: float, dpitch: float) -> Camera:
        """Turned about its target; the pitch stops short of straight up and down."""
        limit = np.radians(88.0)
        pitch = float(np.clip(self.pitch + dpitch, -limit, limit))
        return replace(self, yaw=self.yaw + dyaw, pitch=pitch)

    def pan(self, dx: float, dy: float, height: float) -> Camera:
        """Moved across the picture by pixels.

        Args:
            dx, dy: pixels, to the right and down.
            height: of the picture, in pixels.
        """
        step = self.metres_per_pixel(height)
        axes = self.view()[:3, :3]
        moved = np.asarray(self.target) - axes[0] * dx * step + axes[1] * dy * step
        return replace(self, target=(float(moved[0]), float(moved[1]), float(moved[2])))

    def zoom(self, factor: float, smallest: float = 0.05, largest: float = 100.0) -> Camera:
        """Nearer (factor below 1) or farther.

        Args:
            factor: of the distance.
            smallest, largest: distances it keeps to, metres, through the usual lens; a narrower
                one is as much farther away.
        """
        farther = np.tan(Camera.fov / 2) / np.tan(self.fov / 2)
        distance = np.clip(self.distance * factor, smallest * farther, largest * farther)
        return replace(self, distance=float(distance))

    def framing(self, points: npt.ArrayLike, aspect: float = 1.0, margin: float = 1.12) -> Camera:
        """The same direction of view, with all points just inside the picture.

        Args:
            points: world metres ``(N, 3)``.
            aspect: width by height of the picture.
            margin: 1 touches the edges.
        """
        points = np.atleast_2d(np.asarray(points, dtype=np.float64))
        axes = self.view()[:3, :3]
        local = points @ axes.T
        centre = (local.min(0) + local.max(0)) / 2
        slope = np.tan(self.fov / 2)
        off = np.abs(local - centre) * margin
        nearer = local[:, 2] - centre[2]
        needed = np.maximum(off[:, 1], off[:, 0] / aspect) / slope + nearer
        target = axes.T @ centre
        distance = max(float(needed.max()), 1e-3)
        return replace(
            self,
            target=(float(target[0]), float(target[1]), float(target[2])),
            distance=float(distance),
            shift=(0.0, 0.0),
        )
