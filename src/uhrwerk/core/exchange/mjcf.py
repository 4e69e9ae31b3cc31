"""MJCF, the format of the multibody simulator MuJoCo: links, joints, loops as equality constraints, masses, limits and the motion.

Elements and attributes: MuJoCo documentation, XML reference (mujoco.readthedocs.io); from memory.
"""

from __future__ import annotations

from collections.abc import Iterable
from xml.etree import ElementTree as Xml

import numpy as np

from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.exchange.format import Chosen, Format
from uhrwerk.core.exchange.link_tree import (
    MOTIONS,
    SLOTS,
    Branch,
    bodies_of,
    coordinate,
    far_frame,
    lines_of,
    link_mass,
    link_tree,
)
from uhrwerk.core.forces.applied_forces import FREE_FALL
from uhrwerk.core.joints import ResolvedJoint, axes
from uhrwerk.core.stages.evaluation import Evaluation

#: kg and kg m2 of what stands for a sliding end of a loop: too little to matter, enough to be reckoned with
GHOST_MASS, GHOST_INERTIA = 1e-6, 1e-12
#: stiff, but stable at the step that is stated, s
STEP, STIFF = "0.0005", {"solref": "0.002 1", "solimp": "0.99 0.999 0.0001"}
#: N m/rad or N/m of what holds drives at their places
GAIN = "100"
AXES = {"x": 0, "y": 1, "z": 2}


def _written(e: Evaluation, _: Chosen) -> bytes:
    return _Model(e).text()


class _Model:
    """One file as it is written."""

    def __init__(self, e: Evaluation) -> None:
        self.e, self.tree = e, link_tree(e)
        self.root = Xml.Element("mujoco", model=e.stated.name)
        _add(self.root, "compiler", angle="radian", autolimits="true", inertiafromgeom="false")
        _add(self.root, "option", timestep=STEP, gravity=_numbers(_gravity(e)))
        self.asset = _add(self.root, "asset")
        self.world = _add(self.root, "worldbody")
        self.tendon = Xml.Element("tendon")
        self.equality = Xml.Element("equality")
        self.meshes: dict[str, str] = {}
        self.bodies: dict[int, Xml.Element] = {0: self.world}
        self.order: list[tuple[str, int]] = []  # joints in the order of the coordinates, with how many each has

    def text(self) -> bytes:
        self._geoms(0, self.world)
        for branch in self.tree.branches:
            self._body(branch)
        for loop in self.tree.loops:
            self._loop(loop)
        self._ratios()
        self._number_joints(self.world)
        for part in (self.tendon, self.equality):
            if len(part):
                self.root.append(part)
        self._drives()
        self._keys()
        if self.tree.left_out:
            custom = _add(self.root, "custom")
            _add(custom, "text", name="left_out", data="; ".join(self.tree.left_out))
        Xml.indent(self.root)
        return f'<?xml version="1.0" encoding="UTF-8"?>\n{Xml.tostring(self.root, encoding="unicode")}'.encode()

    def _body(self, b: Branch) -> None:
        tree = self.tree
        within = b.parent > 0  # the frame's own body is the world
        at = poses.compose(poses.inverse(tree.poses[b.parent]), tree.poses[b.link]) if within else tree.poses[b.link]
        body = _add(self.bodies[max(b.parent, 0)], "body", name=tree.names[b.link], **_placed(at))
        self.bodies[b.link] = body
        if b.parent < 0:
            _add(body, "freejoint", name=f"{tree.names[b.link]}.free")
        for one in b.motions:
            limits = {} if one.range is None else {"range": _numbers(one.range)}
            _add(
                body, "joint", name=one.name, type=one.sort, pos=_numbers(one.point), axis=_numbers(one.axis),
                **({} if one.sort == "ball" else {"ref": _number(one.start)}), **limits,
            )  # fmt: skip
        if b.joint is not None and b.joint.kind == "screw":
            lead = {f"{b.joint.id}.slide": 1.0, f"{b.joint.id}.turn": -b.joint.lead / (2 * np.pi)}
            self._ratio(f"{b.joint.id}.lead", lead.items())
        mass, centre, inertia = link_mass(self.e, tree, b.link)
        moments = np.array([inertia[i, j] for i, j in ((0, 0), (1, 1), (2, 2), (0, 1), (0, 2), (1, 2))])
        _add(
            body, "inertial", pos=_numbers(centre), mass=_number(max(mass, GHOST_MASS)),
            fullinertia=_numbers(moments if mass else [GHOST_INERTIA] * 3 + [0] * 3),
        )  # fmt: skip
        self._geoms(b.link, body)

    def _geoms(self, link: int, body: Xml.Element) -> None:
        """Solids to look at; they do not collide, since this format takes each for its convex hull."""
        for one, local in bodies_of(self.e, self.tree, link):
            at = local if link else poses.compose(self.tree.poses[0], local)
            for name, solid in one.solid.bodies.items():
                key = f"{self.e.solid_keys[one.id]}/{name}"
                if key not in self.meshes:
                    self.meshes[key] = f"{one.id}.{name}"
                    _add(
                        self.asset, "mesh", name=self.meshes[key], vertex=_numbers(solid.vertices.ravel()),
                        face=" ".join(map(str, solid.triangles.ravel())),
                    )  # fmt: skip
                _add(
                    body, "geom", name=f"{one.id}/{name}", type="mesh", mesh=self.meshes[key], contype="0", conaffinity="0",
                    rgba=_numbers([*one.colour, 1.0]), **_placed(at),
                )  # fmt: skip

    def _loop(self, j: ResolvedJoint) -> None:
        """What closes a loop: points that stay together; where it slides, by way of a body that slides along with it."""
        ends = self._end(j.a), self._end(j.b)
        if j.kind in ("revolute", "spherical"):
            z = axes(j.frame_a)[2]
            arms = (0.0, self.e.mechanism.reach / 10) if j.kind == "revolute" else (0.0,)
            for k, arm in enumerate(arms):
                point = self._in_world(j.a, j.frame_a[:3] + arm * z)
                self._connect(f"{j.id}.{k}", ends, point)
            return
        if j.kind == "rigid":
            _add(self.equality, "weld", name=f"{j.id}.closed", body1=ends[0], body2=ends[1], **STIFF)
            return
        ghost = self._ghost(j)
        if j.kind in SLOTS:
            self._connect(f"{j.id}.pin", (ghost, ends[1]), np.zeros(3))
        else:
            _add(self.equality, "weld", name=f"{j.id}.closed", body1=ghost, body2=ends[1], **STIFF)

    def _ghost(self, j: ResolvedJoint) -> str:
        """A body without a solid that moves against a as b's frame does, and stands there at the start."""
        name = f"{j.id}.end"
        pose = self.tree.poses
        b_in_a = poses.compose(poses.inverse(pose[j.a]), poses.compose(pose[j.b], j.frame_b))
        if j.kind in SLOTS:  # at the pin's centre, with the slot's own axes
            b_in_a = np.concatenate([b_in_a[:3], j.frame_a[3:]])
        at = poses.compose(pose[0], b_in_a) if j.a == 0 else b_in_a
        body = _add(self.bodies[j.a], "body", name=name, **_placed(at))
        starts = {n: float(v[0]) for n, v in self._moved(j).items()}
        moves = [(n, sort, axis, starts.get(n, 0.0)) for n, sort, axis in SLOTS.get(j.kind) or MOTIONS[j.kind]]
        in_ghost = poses.compose(poses.inverse(b_in_a), poses.compose(poses.inverse(pose[j.a]), pose[j.b]))
        frame = poses.compose(in_ghost, far_frame(pose, j, starts))  # of the ghost, as b has it
        for (moving, sort, _, _), (point, axis) in zip(moves, lines_of(moves, frame), strict=True):
            _add(body, "joint", name=f"{name}.{moving}", type=sort, pos=_numbers(point), axis=_numbers(axis))
        if j.kind == "screw":
            self._ratio(f"{j.id}.lead", [(f"{name}.slide", 1.0), (f"{name}.turn", -j.lead / (2 * np.pi))])
        small = {"mass": _number(GHOST_MASS), "diaginertia": _numbers([GHOST_INERTIA] * 3)}
        _add(body, "inertial", pos="0 0 0", **small)
        return name

    def _end(self, link: int) -> str:
        return "world" if link == 0 else self.tree.names[link]

    def _in_world(self, link: int, point: Array) -> Array:
        """A point of a link as the file has it: of the frame in the world."""
        return np.asarray(poses.place(self.tree.poses[0], point[None])[0]) if link == 0 else point

    def _connect(self, name: str, ends: tuple[str, str], anchor: Array) -> None:
        _add(self.equality, "connect", name=name, body1=ends[0], body2=ends[1], anchor=_numbers(anchor), **STIFF)

    def _ratios(self) -> None:
        for ratio in self.tree.ratios:
            self._ratio(ratio.path, ratio.terms)

    def _ratio(self, name: str, terms: Iterable[tuple[str, float]]) -> None:
        """A sum of coordinates that stays as it is."""
        fixed = _add(self.tendon, "fixed", name=name)
        for joint, factor in terms:
            _add(fixed, "joint", joint=joint, coef=_number(factor))
        _add(self.equality, "tendon", name=f"{name}.held", tendon1=name, polycoef="0 0 0 0 0", **STIFF)

    def _number_joints(self, body: Xml.Element) -> None:
        """Joints in the order in which the simulator numbers coordinates: depth first."""
        for child in body:
            if child.tag in ("joint", "freejoint"):
                sort = child.get("type", "free" if child.tag == "freejoint" else "hinge")
                self.order.append((child.get("name", ""), {"free": 7, "ball": 4}.get(sort, 1)))
        for child in body.findall("body"):
            self._number_joints(child)

    def _driven(self) -> list[str]:
        """The coordinates that drives move."""
        known = {one.name for b in self.tree.branches for one in b.motions}
        names = [f"{d.joint}.{self._led(d.joint)}" for d in self.e.document.drivers.values()]
        return [n for n in dict.fromkeys(names) if n in known]

    def _led(self, joint: str) -> str:
        coordinates = self.e.mechanism.joints[joint].coordinates if joint in self.e.mechanism.joints else ()
        return coordinates[0] if coordinates else ""

    def _drives(self) -> None:
        """Drives as servos that hold their coordinate; the motion's values are in the keys."""
        driven = self._driven()
        if driven:
            actuator = _add(self.root, "actuator")
            for name in driven:
                _add(actuator, "position", name=name, joint=name, kp=GAIN)

    def _keys(self) -> None:
        """The motion: all coordinates at each frame."""
        keyframe = _add(self.root, "keyframe")
        times = self.e.moved.motion.times
        loose = {f"{self.tree.names[b.link]}.free": b.link for b in self.tree.branches if b.parent < 0}
        ghosts = self._ghost_values()
        for f, time in enumerate(times):
            values: list[float] = []
            for name, count in self.order:
                if name in loose:
                    values += self.e.moved.motion.pose[f, loose[name]].tolist()
                elif name in self.tree.values:
                    values += np.atleast_1d(self.tree.values[name][f]).tolist()
                else:
                    values += (
                        np.atleast_1d(ghosts.get(name, np.zeros(len(times)))[f]).tolist()
                        if count == 1
                        else [1.0, 0, 0, 0]
                    )
            controls = [float(self.tree.values[n][f]) for n in self._driven()]
            ctrl = {"ctrl": _numbers(controls)} if controls else {}
            _add(keyframe, "key", time=_number(float(time)), qpos=_numbers(values), **ctrl)

    def _ghost_values(self) -> dict[str, Array]:
        """How the ends of loops move against where they stand at the start."""
        return {
            f"{j.id}.end.{name}": value - value[0]
            for j in self.tree.loops
            if j.kind not in ("revolute", "spherical", "rigid")
            for name, value in self._moved(j).items()
        }

    def _moved(self, j: ResolvedJoint) -> dict[str, Array]:
        """Coordinates of what closes a loop, at the frames (F,)."""
        pose = self.e.moved.motion.pose
        a = poses.compose(pose[:, j.a], np.broadcast_to(j.frame_a, (len(pose), 7)))
        b = poses.compose(pose[:, j.b], np.broadcast_to(j.frame_b, (len(pose), 7)))
        off = poses.compose(poses.inverse(a), b)[:, :3]
        if j.kind == "arc_slot":
            return {"swing": np.unwrap(np.arctan2(off[:, 1], off[:, 0])), "across": off[:, 2]}
        if j.kind == "slot":
            return {"slide": off[:, 2], "across": off[:, 1]}
        return {name: coordinate(self.e, j, name) for name, _, _ in MOTIONS[j.kind]}


def _add(parent: Xml.Element, tag: str, **attributes: str) -> Xml.Element:
    return Xml.SubElement(parent, tag, attributes)


def _gravity(e: Evaluation) -> Array:
    way, _, axis = e.document.cycle.weight.partition("_")
    pull = np.zeros(3)
    if axis in AXES:
        pull[AXES[axis]] = FREE_FALL if way == "along" else -FREE_FALL
    return pull


def _placed(at: Array) -> dict[str, str]:
    return {"pos": _numbers(at[:3]), "quat": _numbers(at[3:])}


def _number(value: float) -> str:
    return f"{float(value):.10g}"


def _numbers(values: Iterable[float]) -> str:
    return " ".join(_number(v) for v in values)


FORMAT = Format(".mjcf", "Links, joints and motion for MuJoCo", "application/xml", write=_written, whole=True)
