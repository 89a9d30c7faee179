"""Plans: an independent checker, brute force on small ones, and what is refused."""

import itertools
import random
import time
import unittest

from brunt_core.errors import InputError
from brunt_core.scheduling.documents import plan_record, read_problem
from brunt_core.scheduling.greedy import placed_one_by_one
from brunt_core.scheduling.reasons import reasons
from brunt_core.scheduling.solve import plan
from brunt_core.scheduling.tasks import (
    Resource,
    SchedulingProblem,
    Task,
    broken,
    lateness,
    spells_of_days,
)

DAYS = spells_of_days([(480, 720), (780, 1020)], 480, 90)


def held(problem, starts, task):
    """When a task's resource is free of it: its end, or the start of all that take over from it there."""
    until = [starts[task.id] + task.minutes]
    for other in problem.tasks if task.holds else ():
        if task.id in other.after and other.resource == task.resource and other.id in starts:
            until.append(starts[other.id])
    return max(until)


def faults(problem, starts):
    """An independent check, minute by minute: every rule as it is written, nothing shared with the core."""
    found = []
    task = {t.id: t for t in problem.tasks}
    end = {i: starts[i] + t.minutes for i, t in task.items()}
    for i, t in task.items():
        if starts[i] < t.not_before or starts[i] < 0:
            found.append((i, "early"))
        if t.attended and not any(a <= starts[i] < end[i] <= b for a, b in problem.spells):
            found.append((i, "nobody"))
        for before in t.after:
            wait = starts[i] - end[before]
            if wait < 0 or (t.gap_max is not None and wait > t.gap_max):
                found.append((i, "order"))
    for r in problem.resources:
        on = [t for t in problem.tasks if t.resource == r.id]
        for minute in sorted({starts[t.id] for t in on}):
            there = [t for t in on if starts[t.id] <= minute < held(problem, starts, t)]
            heats = {t.temperature for t in there if t.temperature is not None}
            if sum(t.amount for t in there) > r.capacity or len(heats) > 1:
                found.append((r.id, minute))
    busy = [t for t in problem.tasks if t.attended]
    for minute in sorted({starts[t.id] for t in busy}):
        if (
            problem.people
            and sum(starts[t.id] <= minute < end[t.id] for t in busy) > problem.people
        ):
            found.append(("people", minute))
    return found


def drawn(n, m, seed, small=False, holding=False):
    """An instance by chance."""
    rng = random.Random(seed)
    resources = tuple(Resource(f"r{i}", rng.choice((1, 1, 2, 4))) for i in range(m))
    tasks = []
    for i in range(n):
        resource = rng.choice(resources)
        attended = rng.random() < 0.4
        earlier = range(max(0, i - 8), i)
        after = rng.sample(earlier, min(len(earlier), rng.choice((0, 0, 1, 1, 2))))
        gap = rng.choice((None, None, 60, 240)) if len(after) == 1 and not attended else None
        tasks.append(
            Task(
                f"t{i}",
                resource.id,
                minutes=rng.choice((30, 60, 90, 120)) if small else rng.choice((15, 45, 120, 180)),
                attended=attended,
                after=tuple(f"t{j}" for j in after),
                gap_max=gap,
                temperature=rng.choice((None, 333.15, 353.15)) if resource.capacity > 1 else None,
                not_before=rng.choice((0, 0, 0, 300)),
                due=rng.choice((None, 240, 600)) if small else rng.choice((None, 4320)),
                amount=rng.randint(1, resource.capacity),
                holds=holding and rng.random() < 0.3,
            )
        )
    return SchedulingProblem(
        resources, tuple(tasks), DAYS, rng.choice((None, 1, 2)) if small else 3
    )


def exhaustive(problem):
    """The least (minutes late, end) over every order of earliest starts, with waiting allowed for gaps.

    Semi-active plans hold an optimum where no gap bounds a wait; instances with gaps are left to the
    checker.
    """
    best = None
    for order in itertools.permutations(problem.tasks):
        starts = {}
        for t in order:
            if not all(b in starts for b in t.after):
                break
            at = t.not_before
            while True:
                trial = SchedulingProblem(
                    problem.resources,
                    tuple(x for x in problem.tasks if x.id in starts or x.id == t.id),
                    problem.spells,
                    problem.people,
                )
                if not faults(trial, {**starts, t.id: at}):
                    break
                at += 30
            starts[t.id] = at
        else:
            late = sum(lateness(problem, starts).values())
            end = max(starts[t.id] + t.minutes for t in problem.tasks)
            best = min(best or (late, end), (late, end))
    return best


class Plans(unittest.TestCase):
    def test_two_hundred_tasks_on_eight_resources(self):
        for seed in (1, 5):
            problem = drawn(200, 8, seed, holding=seed == 5)
            begun = time.monotonic()
            found = plan(problem, 7)
            self.assertLess(time.monotonic() - begun, 10)
            self.assertEqual(faults(problem, found.starts), [])
            self.assertEqual(list(broken(problem, found.starts)), [])
            self.assertEqual(set(found.starts), {t.id for t in problem.tasks})
            first = placed_one_by_one(problem)
            if first:
                self.assertEqual(faults(problem, first), [])
                self.assertLessEqual(
                    sum(found.late.values()), sum(lateness(problem, first).values())
                )

    def test_small_ones_are_as_good_as_every_order_tried(self):
        for seed in range(50):
            problem = drawn(5, 2, seed, small=True)
            free = tuple(Task(**{**t.__dict__, "gap_max": None}) for t in problem.tasks)
            problem = SchedulingProblem(problem.resources, free, problem.spells, problem.people)
            found = plan(problem, 5)
            with self.subTest(seed):
                self.assertEqual(faults(problem, found.starts), [])
                self.assertEqual((sum(found.late.values()), found.makespan), exhaustive(problem))

    def test_gaps_are_kept(self):
        for seed in range(50, 80):
            problem = drawn(6, 2, seed, small=True)
            try:
                found = plan(problem, 5)
            except InputError:
                continue
            self.assertEqual(faults(problem, found.starts), [], seed)

    def test_what_is_left_in_an_oven_keeps_it_taken(self):
        for seed in range(80, 110):
            problem = drawn(6, 2, seed, small=True, holding=True)
            try:
                found = plan(problem, 5)
            except InputError:
                continue
            self.assertEqual(faults(problem, found.starts), [], seed)
            self.assertEqual(list(broken(problem, found.starts)), [], seed)

    def test_held_ones_are_as_good_as_every_placing_of_a_grid(self):
        rng = random.Random(3)
        for _ in range(12):
            lengths = [rng.choice((30, 60, 90)) for _ in range(4)]
            tasks = (
                Task("heat", "oven", lengths[0], holds=True),
                Task("take", "oven", lengths[1], attended=True, after=("heat",)),
                Task("dry", "oven", lengths[2], not_before=rng.choice((0, 30, 90))),
                Task("dry2", "oven", lengths[3]),
            )
            spells = ((rng.choice((60, 120, 240)), 600),)
            problem = SchedulingProblem((Resource("oven"),), tasks, spells)
            found = plan(problem, 3)
            self.assertEqual(faults(problem, found.starts), [])
            ends = []
            for placing in itertools.product(range(0, 420, 30), repeat=4):
                starts = dict(zip(("heat", "take", "dry", "dry2"), placing, strict=True))
                if not faults(problem, starts):
                    ends.append(max(starts[t.id] + t.minutes for t in tasks))
            self.assertEqual(found.makespan, min(ends))

    def test_every_task_has_its_reason(self):
        problem = drawn(30, 4, 3)
        found = plan(problem, 5)
        said = reasons(problem, found.starts)
        self.assertEqual(set(said), set(found.starts))
        self.assertTrue(all(s.endswith(".") for s in said.values()))

    def test_what_is_pinned_stays_and_a_clash_is_named(self):
        oven = Resource("oven")
        tasks = (Task("a", "oven", 60, pinned=30), Task("b", "oven", 60))
        found = plan(SchedulingProblem((oven,), tasks))
        self.assertEqual(found.starts, {"a": 30, "b": 90})
        clash = (Task("a", "oven", 60, pinned=30), Task("b", "oven", 60, pinned=60))
        with self.assertRaisesRegex(InputError, "share oven"):
            plan(SchedulingProblem((oven,), clash))

    def test_knots_are_named(self):
        oven, spells = Resource("oven"), ((0, 120), (1440, 1560))
        one = Task("a", "oven", 60)
        for tasks, sentence in (
            ((Task("a", "oven", 10, amount=2),), "takes 2 of oven"),
            (
                (Task("a", "oven", 10, after=("b",)), Task("b", "oven", 5, after=("a",))),
                "one another",
            ),
            ((Task("a", "kiln", 10),), "kiln, which is not among"),
            ((Task("a", "oven", 10, after=("z",)),), "z, which is not among"),
            ((Task("a", "oven", 200, attended=True),), "the longest spell has 120 min"),
            ((Task("a", "oven", 0),), "more than none"),
            ((one, one), "Two tasks are called a"),
            (
                (
                    Task("cure", "oven", 600, pinned=0),
                    Task("pull", "oven", 60, True, ("cure",), 30),
                ),
                "pull .*within 30 min of cure",
            ),
        ):
            with self.subTest(sentence), self.assertRaisesRegex(InputError, sentence):
                problem = SchedulingProblem((oven,), tasks, spells)
                found = plan(problem, 3)
                self.fail(str(found))

    def test_no_tasks_no_plan(self):
        self.assertEqual(plan(SchedulingProblem((), ())).makespan, 0)


class Documents(unittest.TestCase):
    ONE = {
        "start": "2026-03-02T08:00",
        "hours": [["08:00", "12:00"], [13, 17]],
        "resources": [{"id": "oven", "capacity": 4}, {"id": "frame", "capacity": 1}],
        "tasks": [
            {"id": "dry", "resource": "oven", "minutes": 240, "temperature": "80 degC"},
            {"id": "anneal", "resource": "oven", "minutes": 120, "temperature": 100},
            {
                "id": "pull",
                "resource": "frame",
                "minutes": 60,
                "attended": True,
                "after": ["anneal"],
                "gap_max_minutes": 120,
                "due": "2026-03-02T12:00",
            },
        ],
    }

    def test_one_is_read_planned_and_told(self):
        problem, start = read_problem(self.ONE)
        record = plan_record(problem, plan(problem, 3), start)
        at = {t["id"]: (t["start"], t["end"]) for t in record["tasks"]}
        self.assertEqual(at["anneal"], ("2026-03-02T08:00:00", "2026-03-02T10:00:00"))
        self.assertEqual(at["pull"][0], "2026-03-02T10:00:00")
        self.assertEqual((record["late"], record["makespan_minutes"]), ([], 360))
        self.assertIn("another temperature for anneal", record["why"]["dry"])

    def test_what_is_no_plan(self):
        def changed(**more):
            return {**self.ONE, **more}

        def task(**more):
            return changed(tasks=[{"id": "a", "resource": "oven", "minutes": 60, **more}])

        for document, sentence in (
            ([], "no object"),
            (changed(start="soon"), "not a date"),
            (changed(tasks="all"), "not a list"),
            (changed(hours=[["08:00"]]), "from, to"),
            (changed(hours=[["08:00", "08:00"]]), "ends when it starts"),
            (changed(resources=[{"capacity": 1}]), "no id"),
            (changed(resources=[{"id": "oven", "capacity": 1.5}]), "whole number"),
            (task(minutes="an hour"), "whole number of minutes"),
            (task(minutes=1e12), "too long"),
            (task(temperature="-400 degC"), "absolute zero"),
            (task(after="x", due="2026-03-02T10:00+01:00"), "time zone"),
            (task(after=[1]), "list of ids"),
            (task(gap_max_minutes=-1), "below zero"),
            (task(attended="yes"), "neither true nor false"),
            (changed(tasks=[{"id": "a"}] * 1001), "too many"),
        ):
            with self.subTest(sentence), self.assertRaisesRegex(InputError, sentence):
                read_problem(document)
