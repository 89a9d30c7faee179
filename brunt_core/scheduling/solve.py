"""A feasible plan: constraint programming over starts in minutes."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from brunt_core.errors import InputError
from brunt_core.scheduling.greedy import left_shifted, placed_one_by_one
from brunt_core.scheduling.tasks import (
    SchedulingProblem,
    Task,
    broken,
    check_problem,
    lateness,
    unlike_heat,
)

SECONDS = 6.0

if TYPE_CHECKING:
    from ortools.sat.python import cp_model


def _cp() -> Any:
    """The solver, loaded when a plan is first made: it takes more than a second."""
    from ortools.sat.python import cp_model

    return cp_model


@dataclass(frozen=True)
class Plan:
    """Starts and ends by task in minutes, minutes late by task, the end of the last, and whether
    nothing better exists (else it is the best found in the time)."""

    starts: Mapping[str, int]
    ends: Mapping[str, int]
    late: Mapping[str, int]
    makespan: int
    proven: bool


class Model:
    """The constraint model of a problem, kept while it is solved and asked about."""

    def __init__(self, problem: SchedulingProblem, horizon: int, relaxed: bool = False) -> None:
        self.problem, self.horizon = problem, horizon
        self.model = _cp().CpModel()
        self.starts = {t.id: self._start(t) for t in problem.tasks}
        self.assumed: dict[int, str] = {}
        self._intervals = {
            t.id: self.model.new_fixed_size_interval_var(self.starts[t.id], t.minutes, t.id)
            for t in problem.tasks
        }
        for task in problem.tasks:
            self._order(task, relaxed)
        for resource in problem.resources:
            self._shared(resource.id, resource.capacity)
        attended = [self._intervals[t.id] for t in problem.tasks if t.attended]
        if problem.people is not None and attended:
            self.model.add_cumulative(attended, [1] * len(attended), problem.people)

    def _start(self, task: Task) -> "cp_model.IntVar":
        """Its start: pinned, or from the earliest on; attended ones wholly in a spell."""
        if task.pinned is not None:
            return self.model.new_constant(task.pinned)
        last = self.horizon - task.minutes
        if not task.attended:
            return self.model.new_int_var(task.not_before, max(last, task.not_before), task.id)
        spells = [
            [max(a, task.not_before), min(b - task.minutes, last)]
            for a, b in self.problem.spells
            if max(a, task.not_before) <= min(b - task.minutes, last)
        ]
        if not spells:
            raise InputError(f"{task.id} has no attended time slot.", task.id)
        domain = _cp().Domain.from_intervals(spells)
        return self.model.new_int_var_from_domain(domain, task.id)

    def _order(self, task: Task, relaxed: bool) -> None:
        for before in task.after:
            done = self.starts[before] + self.problem.by_id[before].minutes
            self.model.add(self.starts[task.id] >= done)
            if task.gap_max is None:
                continue
            kept = self.model.add(self.starts[task.id] <= done + task.gap_max)
            if relaxed:
                literal = self.model.new_bool_var(f"gap {before} {task.id}")
                kept.only_enforce_if(literal)
                self.assumed[literal.index] = task.id
                self.model.add_assumption(literal)

    def _taking(self, task: Task) -> "cp_model.IntervalVar":
        """How long it takes its resource: till its end, or till what it leaves there is taken over."""
        over = self.problem.taking_over(task)
        if not over:
            return self._intervals[task.id]
        most = self.horizon + task.minutes
        until = self.model.new_int_var(0, most, f"until {task.id}")
        self.model.add_max_equality(until, [self.starts[t.id] for t in over])
        length = self.model.new_int_var(task.minutes, most, f"length {task.id}")
        return self.model.new_interval_var(self.starts[task.id], length, until, f"held {task.id}")

    def _shared(self, resource: str, capacity: int) -> None:
        on = [t for t in self.problem.tasks if t.resource == resource]
        taking = {t.id: self._taking(t) for t in on}
        intervals = list(taking.values())
        if capacity == 1:
            self.model.add_no_overlap(intervals)
            return
        self.model.add_cumulative(intervals, [t.amount for t in on], capacity)
        for i, a in enumerate(on):
            for b in on[:i]:
                if unlike_heat(a, b):
                    self.model.add_no_overlap([taking[a.id], taking[b.id]])

    def aim(self) -> None:
        """Least minutes late, of those the earliest end of all."""
        end = self.model.new_int_var(0, self.horizon, "end")
        late = []
        for t in self.problem.tasks:
            self.model.add(end >= self.starts[t.id] + t.minutes)
            if t.due is not None:
                minutes = self.model.new_int_var(0, self.horizon + max(-t.due, 0), f"late {t.id}")
                self.model.add(minutes >= self.starts[t.id] + t.minutes - t.due)
                late.append(minutes)
        self.model.minimize((self.horizon + 1) * sum(late) + end)


def plan(problem: SchedulingProblem, seconds: float = SECONDS, workers: int = 4) -> Plan:
    """Place every task: nothing broken, as few minutes late as can be, then done as early as can be.

    Parameters: a problem in minutes; ``seconds`` to search. The search starts from a placing of one
    task after the other, so that there is a plan however short the time; then each is moved as
    early as it can be without moving another.

    Raises :class:`InputError` for what cannot be placed at all, naming the knot.
    Source: CP-SAT of OR-tools; checked by an independent checker and by brute force in
    tests/reference/test_scheduling.py.

    >>> from brunt_core.scheduling.tasks import Resource
    >>> oven = Resource("oven", 4)
    >>> p = plan(SchedulingProblem((oven,), (Task("a", "oven", 60, temperature=353.0),
    ...                            Task("b", "oven", 60, temperature=363.0),
    ...                            Task("c", "oven", 90, temperature=353.0))))
    >>> p.makespan, p.starts["a"] == p.starts["c"], p.proven
    (150, True, True)
    """
    check_problem(problem)
    if not problem.tasks:
        return Plan({}, {}, {}, 0, True)
    hint = placed_one_by_one(problem)
    horizon = _horizon(problem, hint)
    built = Model(problem, horizon)
    built.aim()
    if hint:
        for task, start in hint.items():
            if problem.by_id[task].pinned is None:
                built.model.add_hint(built.starts[task], start)
    solver = _cp().CpSolver()
    solver.parameters.max_time_in_seconds = seconds
    solver.parameters.num_workers = workers
    solver.parameters.random_seed = 7
    status = solver.solve(built.model)
    if status in (_cp().OPTIMAL, _cp().FEASIBLE):
        starts = {i: int(solver.value(v)) for i, v in built.starts.items()}
        return _told(problem, left_shifted(problem, starts), status == _cp().OPTIMAL)
    if status != _cp().INFEASIBLE and hint:
        return _told(problem, hint, False)
    raise _knot(problem, horizon)


def _told(problem: SchedulingProblem, starts: Mapping[str, int], proven: bool) -> Plan:
    ends = {t.id: starts[t.id] + t.minutes for t in problem.tasks}
    return Plan(starts, ends, lateness(problem, starts), max(ends.values()), proven)


def _horizon(problem: SchedulingProblem, hint: Mapping[str, int] | None) -> int:
    """A time by which all can be done, with room for one that is late less and ends later."""
    work = sum(t.minutes + (t.gap_max or 0) for t in problem.tasks)
    if hint:
        return 2 * max(hint[t.id] + t.minutes for t in problem.tasks) + work + 1
    latest = max(max(t.not_before, t.pinned or 0) for t in problem.tasks)
    there = max((b for _, b in problem.spells), default=0)
    return max(latest + 2 * work, there) + 1


def _knot(problem: SchedulingProblem, horizon: int) -> InputError:
    """Why nothing fits: the pins, or the tasks whose gaps cannot all be kept."""
    pinned = {t.id: t.pinned for t in problem.tasks if t.pinned is not None}
    if pinned:
        said = list(_among(problem, pinned))
        if said:
            return InputError(said[0][1], said[0][0])
    relaxed = Model(problem, horizon, relaxed=True)
    solver = _cp().CpSolver()
    solver.parameters.max_time_in_seconds = 5
    solver.parameters.num_workers = 1
    if solver.solve(relaxed.model) == _cp().INFEASIBLE:
        core = solver.sufficient_assumptions_for_infeasibility()
        names = list(dict.fromkeys(relaxed.assumed[i] for i in core if i in relaxed.assumed))
        if names:
            gaps = "; ".join(_gap(problem.by_id[n]) for n in names[:4])
            return InputError(f"These cannot all be met: {gaps}.", names[0])
    names = [t.id for t in problem.tasks if t.pinned is not None] or [problem.tasks[0].id]
    return InputError(
        f"No schedule is possible around {', '.join(names[:4])}: fixed jobs conflict.", names[0]
    )


def _gap(task: Task) -> str:
    there = " with somebody there" if task.attended else ""
    return f"{task.id}{there} within {task.gap_max} min of {' and '.join(task.after)}"


def _among(problem: SchedulingProblem, pinned: Mapping[str, int]) -> list[tuple[str, str]]:
    """What the pinned tasks break among themselves."""
    tasks = tuple(t for t in problem.tasks if t.id in pinned)
    cut = tuple(_without_others(t, pinned) for t in tasks)
    return list(
        broken(SchedulingProblem(problem.resources, cut, problem.spells, problem.people), pinned)
    )


def _without_others(task: Task, kept: Mapping[str, int]) -> Task:

    return replace(task, after=tuple(b for b in task.after if b in kept))
