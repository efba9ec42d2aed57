"""Random engines for the property tests."""

from dataclasses import replace

from hypothesis import strategies as st

from true_compass.core.changes import with_table
from true_compass.core.crank import makers
from true_compass.core.crank.orders import all_orders
from true_compass.core.engine import (
    CamDrive,
    Compression,
    Engine,
    Head,
    Mark,
    Meaning,
    Shaft,
    even_inline,
)
from true_compass.core.items import ExtraKind, Kind
from true_compass.core.rotation import End, Rotation
from true_compass.core.valves.cam import Bump, Cam, ExtraLobe, LiftTable, ValveTiming
from true_compass.core.valves.train import NO_RATIO, Adjuster, LashAt, Tappet, Train, TrainKind
from true_compass.files.rigs import demo_rig

angles_deg = st.floats(-5000, 5000)

timings = st.builds(
    ValveTiming,
    opens_before_deg=st.floats(-20, 80),
    closes_after_deg=st.floats(-20, 110),
    peak_lift_mm=st.floats(1, 30),
    lash_mm=st.floats(0, 1),
    ramp_deg=st.just(20.0),
)

orders = st.integers(1, 18).flatmap(
    lambda count: st.permutations(range(2, count + 1)).map(lambda rest: (1, *rest))
)

words = st.text(
    st.characters(min_codepoint=32, max_codepoint=0x24F, exclude_categories=["C", "Z"]), max_size=40
)


made = st.sampled_from(
    [
        *(makers.inline(count) for count in range(1, 9)),
        makers.inline(4, "crossplane"),
        makers.vee(2, 45),
        makers.vee(6, 90, "split"),
        makers.vee(6, 60, "own", numbering="across", end="rear"),
        makers.vee(8, 90),
        makers.vee(8, 180, crank="flat"),
        makers.flat(6),
        makers.double_u(12),
        makers.staggered(6),
        makers.radial(9),
        makers.radial(14, 2),
        makers.square_four(),
        makers.u_engine(8),
    ]
)


def never_opens() -> Engine:
    """Alder with an intake lobe that the lash takes up whole."""
    engine = demo_rig("alder")
    rising = (0.0, 0.2, 0.6, 1.0, 1.5, 1.8)
    angles = tuple(float(at) for at in range(0, 260, 20))
    low = LiftTable(angles, (*rising, 2.0, *reversed(rising)))
    cam = engine.cam.with_timing(Kind.INTAKE, replace(engine.cam.intake, lash_mm=4.0))
    return with_table(replace(engine, cam=cam), Kind.INTAKE, low)


@st.composite
def trains(draw: st.DrawFn) -> Train:
    """A valve train of any kind."""
    kind = draw(st.sampled_from(TrainKind))
    ratio = 1.0 if kind in NO_RATIO else draw(st.floats(0.8, 2.0))
    return Train(
        kind=kind,
        tappet=draw(st.sampled_from(Tappet)),
        intake_ratio=ratio,
        exhaust_ratio=ratio,
        adjuster=draw(
            st.sampled_from(
                [a for a in Adjuster if a is not Adjuster.PIVOT_SCREW or kind is TrainKind.FINGER]
            )
        ),
        thread=draw(st.sampled_from(["", "M8x1", "3/8-24"])),
        bridge=draw(st.booleans()),
        lash_at=draw(st.sampled_from([LashAt.VALVE, LashAt.BRIDGE, LashAt.CAM])),
    )


@st.composite
def cams(draw: st.DrawFn) -> Cam:
    """Both timings, with one ramp and one checking lift for both, and what else a lobe drives."""
    intake, exhaust = draw(timings), draw(timings)
    release = draw(st.sampled_from([None, Bump(612.0, 690.0, 0.6, 10.0)]))
    brake = ExtraLobe(ExtraKind.BRAKE, Bump(655.0, 755.0, 2.0), 1.3, 0.6)
    pump = ExtraLobe(ExtraKind.INJECTOR, Bump(655.0, 980.0, 12.0), 1.6)
    extras = draw(st.sampled_from([(), (brake,), (pump, brake)]))
    exhaust = replace(exhaust, opens_before_deg=min(exhaust.opens_before_deg, 60.0))
    return Cam(intake, exhaust, release, extras)


@st.composite
def any_engines(draw: st.DrawFn) -> Engine:
    """An engine of any layout, firing in any of its orders, with marks and valves."""
    engine = draw(made)
    table = all_orders(engine.layout)
    offsets = table.offsets_deg if len(table) else table.together_deg
    row = draw(st.integers(0, len(offsets) - 1))
    marks = st.builds(
        Mark,
        words.filter(bool),
        st.floats(0, 359.9),
        words,
        st.booleans(),
        words.map(lambda text: text[:30]),
        st.sampled_from(Meaning),
        st.sampled_from(Shaft),
    )
    return replace(
        engine,
        name=draw(words.filter(bool)),
        late=tuple((offsets[row] >= 360.0).tolist()),
        pin_offset_mm=draw(st.sampled_from([0.0, 0.8, -1.5])),
        rotation=draw(st.sampled_from(Rotation)),
        seen_from=draw(st.sampled_from(End)),
        head=Head(*draw(st.sampled_from([(1, 1), (2, 1), (2, 2), (3, 2)]))),
        cam=draw(cams()),
        train=draw(trains()),
        compression=Compression(draw(st.floats(5, 20)), draw(st.floats(1.1, 1.4)), 98.0),
        cam_drive=draw(st.sampled_from(CamDrive)),
        marks=tuple(draw(st.lists(marks, max_size=2))),
        dots_fire=draw(st.integers(0, engine.cylinder_count)),
    )


@st.composite
def engines(draw: st.DrawFn) -> Engine:
    stroke_mm = draw(st.floats(20, 300))
    return replace(
        even_inline(draw(orders)),
        name=draw(words.filter(bool)),
        bore_mm=draw(st.floats(20, 300)),
        stroke_mm=stroke_mm,
        rod_mm=stroke_mm * draw(st.floats(0.6, 3)),
        cam=Cam(draw(timings), draw(timings)),
        rotation=draw(st.sampled_from(Rotation)),
        lash_hot=draw(st.booleans()),
        place=draw(words),
        note=draw(words),
    )
