from __future__ import annotations

from django.conf import settings
from django.db import models

from hame.measure.dynamics import GRAVITY
from server.characters.models import CharacterVersion
from server.productions.models import Production
from server.shots.fields import FastJSONField

# Names that are keys are compared to the letter: Tail, tail and TAIL are three joints, e and é two.
EXACT = "utf8mb4_nopad_bin"
MAX_RANGE = 5000  # frames of a shot


class Shot(models.Model):
    """A stretch of frames with a cast. ``start`` to ``end`` is the range, ``play_*`` what is played in it."""

    production = models.ForeignKey(Production, on_delete=models.CASCADE, related_name="shots")
    name = models.CharField(max_length=100)
    fps = models.FloatField(default=24)
    gravity = models.FloatField(default=GRAVITY)  # of its world, metres a second, each second
    start = models.IntegerField(default=1)
    end = models.IntegerField(default=48)
    play_start = models.IntegerField(default=1)
    play_end = models.IntegerField(default=24)
    thumbnail = models.FileField(upload_to="thumbnails", blank=True)
    created_at = models.DateTimeField(auto_now_add=True)
    changed_at = models.DateTimeField(auto_now=True)
    put_away_at = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return self.name


class Casting(models.Model):
    """A character or prop playing in a shot; the same one may be cast twice.

    ``protected`` are names of controls that no edit may touch. One that was taken out keeps its motion in all takes.
    """

    shot = models.ForeignKey(Shot, on_delete=models.CASCADE, related_name="cast")
    version = models.ForeignKey(CharacterVersion, on_delete=models.RESTRICT, related_name="castings")
    name = models.CharField(max_length=100)
    place = models.PositiveIntegerField(default=0)
    protected = models.JSONField(default=list)
    taken_out_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["place", "id"]

    def __str__(self) -> str:
        return f"{self.name} in {self.shot}"


class Take(models.Model):
    """One version of a shot's motion, with its own history.

    ``head`` is the last step that counts; ``tip`` is the end of the line of
    steps that redo follows. Every change of what the take holds, undo
    included, raises ``revision``. ``paths`` are those that are drawn, which is no step.
    """

    shot = models.ForeignKey(Shot, on_delete=models.CASCADE, related_name="takes")
    name = models.CharField(max_length=100)
    revision = models.PositiveIntegerField(default=0)
    head = models.ForeignKey("Edit", null=True, on_delete=models.SET_NULL, related_name="+")
    tip = models.ForeignKey("Edit", null=True, on_delete=models.SET_NULL, related_name="+")
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    changed_at = models.DateTimeField(auto_now=True)
    put_away_at = models.DateTimeField(null=True)
    paths = models.JSONField(default=list)

    def __str__(self) -> str:
        return f"{self.shot}, {self.name}"


class Curve(models.Model):
    """The keys of one channel, as rows ``[frame, value, shape, handles...]``."""

    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="curves")
    casting = models.ForeignKey(Casting, on_delete=models.CASCADE, related_name="+")
    channel = models.CharField(max_length=160, db_collation=EXACT)
    keys = FastJSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["take", "casting", "channel"], name="one_curve_a_channel")]


class PendingPose(models.Model):
    """Channel values that were set at a frame and not keyed yet."""

    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="pending")
    casting = models.ForeignKey(Casting, on_delete=models.CASCADE, related_name="+")
    frame = models.IntegerField()
    values = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["take", "casting", "frame"], name="one_pending_pose_a_frame")]


class ClipMarks(models.Model):
    """What a clip knows besides keys: labels of poses by frame, and spans by track.

    ``revision`` is the one at which these, the curves and the pending poses
    are stored; steps made since stand in the edits (see server.shots.clips).
    """

    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="marks")
    casting = models.ForeignKey(Casting, on_delete=models.CASCADE, related_name="+")
    labels = models.JSONField(default=dict)
    tracks = models.JSONField(default=dict)
    revision = models.PositiveIntegerField(default=0)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["take", "casting"], name="one_set_of_marks_a_clip")]


class SelectionSet(models.Model):
    """Controls that are selected together, and the one they turn about (empty: the last selected).

    Others of the cast may be meant with it, by the number of their casting: some controls, or (none) the whole.
    """

    casting = models.ForeignKey(Casting, on_delete=models.CASCADE, related_name="sets")
    name = models.CharField(max_length=60, db_collation=EXACT)
    controls = models.JSONField()
    pivot = models.CharField(max_length=160, blank=True)
    beside = models.JSONField(default=dict)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["casting", "name"], name="set_names")]

    def __str__(self) -> str:
        return self.name


class SheetImage(models.Model):
    """A picture of the reference sheet beside the stage, tied to a frame if wished."""

    shot = models.ForeignKey(Shot, on_delete=models.CASCADE, related_name="images")
    name = models.CharField(max_length=120)
    picture = models.FileField(upload_to="sheets")
    frame = models.IntegerField(null=True)
    place = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ["place", "id"]

    def __str__(self) -> str:
        return self.name


class Guide(models.Model):
    """A point, line or arc on the stage of a shot, to line things up by: of one person, or ``shared``. It is no part
    of what is handed off.

    ``points`` are one to three places, metres; ``view`` is the straight view that it is drawn in, empty for the world.
    On the picture of the shot camera they are places of that picture, in halves of its height from its middle.
    """

    shot = models.ForeignKey(Shot, on_delete=models.CASCADE, related_name="guides")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    shared = models.BooleanField(default=False)
    kind = models.CharField(max_length=8)
    view = models.CharField(max_length=8, blank=True)
    points = models.JSONField()

    def __str__(self) -> str:
        return f"{self.kind} in {self.view or 'the world'}"


class LibraryPose(models.Model):
    """A stored pose or part of one: channel values, and what is needed to lay it on another figure."""

    production = models.ForeignKey(Production, on_delete=models.CASCADE, related_name="poses")
    name = models.CharField(max_length=100)
    character = models.CharField(max_length=100)
    values = models.JSONField()
    size = models.FloatField(help_text="length of the legs of the figure it was stored from, metres")
    with_master = models.BooleanField(default=False)
    picture = models.FileField(upload_to="poses", blank=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    set_aside = models.BooleanField(default=False)

    class Meta:
        ordering = ["name", "id"]

    def __str__(self) -> str:
        return self.name


class Manner(models.Model):
    """How somebody goes, by the names of traits (:mod:`hame.gait.traits`), kept under a name."""

    production = models.ForeignKey(Production, on_delete=models.CASCADE, related_name="manners")
    name = models.CharField(max_length=80)
    traits = models.JSONField()
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    set_aside = models.BooleanField(default=False)

    class Meta:
        ordering = ["name", "id"]

    def __str__(self) -> str:
        return self.name


class Edit(models.Model):
    """One committed step; what it changed stands in its differences. Steps are only deleted with their take.

    ``parent`` is the step before it; after an undo a new step begins another
    line from the same parent, and the old line can still be gone back to.
    ``key`` is the name that the page gave the step, so that sending it again
    makes it once. ``inverse_of`` is the step that this one takes back (or, of
    such a one, brings again) where others have gone on since. ``moved_time``
    are the frames, first and last (null: without end), of which what lay there
    lies elsewhere by it. ``rate`` is the change of the frame rate that the
    step is the part of in this take. ``remade`` is one whose amount was changed
    afterwards: the step that was made in its place is told in the history.
    """

    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="edits")
    parent = models.ForeignKey("self", null=True, on_delete=models.RESTRICT, related_name="children")
    inverse_of = models.ForeignKey("self", null=True, on_delete=models.RESTRICT, related_name="+")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    key = models.CharField(max_length=64, null=True, unique=True, db_collation=EXACT)
    label = models.CharField(max_length=200)
    notes = models.JSONField(default=list)
    made_at = models.DateTimeField(auto_now_add=True)
    moved_time = models.JSONField(null=True)
    rate = models.ForeignKey("RateChange", null=True, on_delete=models.SET_NULL, related_name="edits")
    remade = models.BooleanField(default=False)


class RateChange(models.Model):
    """A change of the frames a second of a shot and of its range: a step of each of its takes, which go together."""

    shot = models.ForeignKey(Shot, on_delete=models.CASCADE, related_name="rates")
    before = models.JSONField()
    after = models.JSONField()


class Difference(models.Model):
    """What a step changed in the clip of one of the cast, readable both ways.

    ``size`` counts what the patch holds, so that it can be known without reading it.
    """

    edit = models.ForeignKey(Edit, on_delete=models.CASCADE, related_name="differences")
    casting = models.ForeignKey(Casting, on_delete=models.CASCADE, related_name="+")
    patch = FastJSONField()
    size = models.PositiveIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["edit", "casting"], name="one_difference_a_clip")]


class Change(models.Model):
    """What led from one revision of a take to the next: an edit, done or undone.

    ``key`` is the name that the page gave an undo, a redo or a way through the history.
    """

    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="changes")
    revision = models.PositiveIntegerField()
    edit = models.ForeignKey(Edit, on_delete=models.CASCADE, related_name="+")
    forward = models.BooleanField()
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    key = models.CharField(max_length=64, null=True, db_index=True, db_collation=EXACT)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["take", "revision", "edit"], name="one_change_a_revision")]
