"""What goes over the API about shots: one module for each of its matters."""

from server.shots.schemas.common import (
    FrameNumber as FrameNumber,
)
from server.shots.schemas.common import (
    KeyRow as KeyRow,
)
from server.shots.schemas.common import (
    Values as Values,
)
from server.shots.schemas.library import (
    DrawnPoseOut as DrawnPoseOut,
)
from server.shots.schemas.library import (
    LibraryPoseChange as LibraryPoseChange,
)
from server.shots.schemas.library import (
    LibraryPoseIn as LibraryPoseIn,
)
from server.shots.schemas.library import (
    LibraryPoseOut as LibraryPoseOut,
)
from server.shots.schemas.library import (
    SheetImageChange as SheetImageChange,
)
from server.shots.schemas.library import (
    SheetImageOut as SheetImageOut,
)
from server.shots.schemas.library import (
    StrokeOut as StrokeOut,
)
from server.shots.schemas.looks import (
    CAMERA as CAMERA,
)
from server.shots.schemas.looks import (
    MOST_PATHS as MOST_PATHS,
)
from server.shots.schemas.looks import (
    AlertOut as AlertOut,
)
from server.shots.schemas.looks import (
    AlikeOut as AlikeOut,
)
from server.shots.schemas.looks import (
    BorneOut as BorneOut,
)
from server.shots.schemas.looks import (
    BumpOut as BumpOut,
)
from server.shots.schemas.looks import (
    ChartOut as ChartOut,
)
from server.shots.schemas.looks import (
    ChecksOut as ChecksOut,
)
from server.shots.schemas.looks import (
    CurvesOut as CurvesOut,
)
from server.shots.schemas.looks import (
    FlightOut as FlightOut,
)
from server.shots.schemas.looks import (
    FlipOut as FlipOut,
)
from server.shots.schemas.looks import (
    FoundOut as FoundOut,
)
from server.shots.schemas.looks import (
    HappeningOut as HappeningOut,
)
from server.shots.schemas.looks import (
    IdleOut as IdleOut,
)
from server.shots.schemas.looks import (
    JoinOut as JoinOut,
)
from server.shots.schemas.looks import (
    LagOut as LagOut,
)
from server.shots.schemas.looks import (
    LimitsIn as LimitsIn,
)
from server.shots.schemas.looks import (
    PathIn as PathIn,
)
from server.shots.schemas.looks import (
    PathOut as PathOut,
)
from server.shots.schemas.looks import (
    PathsIn as PathsIn,
)
from server.shots.schemas.looks import (
    SidesOut as SidesOut,
)
from server.shots.schemas.rigs import (
    BalanceOut as BalanceOut,
)
from server.shots.schemas.rigs import (
    ChainOut as ChainOut,
)
from server.shots.schemas.rigs import (
    ChannelOut as ChannelOut,
)
from server.shots.schemas.rigs import (
    ControlOut as ControlOut,
)
from server.shots.schemas.rigs import (
    LimbOut as LimbOut,
)
from server.shots.schemas.rigs import (
    MovingOut as MovingOut,
)
from server.shots.schemas.rigs import (
    PartOut as PartOut,
)
from server.shots.schemas.rigs import (
    RigOut as RigOut,
)
from server.shots.schemas.rigs import (
    ShapeOut as ShapeOut,
)
from server.shots.schemas.shots import (
    CastIn as CastIn,
)
from server.shots.schemas.shots import (
    CastingChange as CastingChange,
)
from server.shots.schemas.shots import (
    CastingOut as CastingOut,
)
from server.shots.schemas.shots import (
    CastOrder as CastOrder,
)
from server.shots.schemas.shots import (
    SetIn as SetIn,
)
from server.shots.schemas.shots import (
    SetOut as SetOut,
)
from server.shots.schemas.shots import (
    ShotChange as ShotChange,
)
from server.shots.schemas.shots import (
    ShotIn as ShotIn,
)
from server.shots.schemas.shots import (
    ShotOut as ShotOut,
)
from server.shots.schemas.shots import (
    ShotSummary as ShotSummary,
)
from server.shots.schemas.shots import (
    TakeChange as TakeChange,
)
from server.shots.schemas.shots import (
    TakeIn as TakeIn,
)
from server.shots.schemas.shots import (
    TakenOut as TakenOut,
)
from server.shots.schemas.shots import (
    TakeSummary as TakeSummary,
)
from server.shots.schemas.takes import (
    ClipChange as ClipChange,
)
from server.shots.schemas.takes import (
    ClipOut as ClipOut,
)
from server.shots.schemas.takes import (
    CurveChange as CurveChange,
)
from server.shots.schemas.takes import (
    DoubleOut as DoubleOut,
)
from server.shots.schemas.takes import (
    EditIn as EditIn,
)
from server.shots.schemas.takes import (
    FollowOut as FollowOut,
)
from server.shots.schemas.takes import (
    GoTo as GoTo,
)
from server.shots.schemas.takes import (
    HistoryStep as HistoryStep,
)
from server.shots.schemas.takes import (
    LabelOut as LabelOut,
)
from server.shots.schemas.takes import (
    RateIn as RateIn,
)
from server.shots.schemas.takes import (
    Revised as Revised,
)
from server.shots.schemas.takes import (
    StepDone as StepDone,
)
from server.shots.schemas.takes import (
    StepId as StepId,
)
from server.shots.schemas.takes import (
    TakeOut as TakeOut,
)
from server.shots.schemas.ways import (
    FootfallOut as FootfallOut,
)
from server.shots.schemas.ways import (
    MannerIn as MannerIn,
)
from server.shots.schemas.ways import (
    MannerOut as MannerOut,
)
from server.shots.schemas.ways import (
    QuantityOut as QuantityOut,
)
from server.shots.schemas.ways import (
    StoredManner as StoredManner,
)
from server.shots.schemas.ways import (
    WayOut as WayOut,
)
from server.shots.schemas.ways import (
    WayPointOut as WayPointOut,
)
from server.shots.schemas.ways import (
    WaysOut as WaysOut,
)
from server.shots.schemas.ways import (
    WaysTried as WaysTried,
)
