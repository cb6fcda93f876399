"""How much a search may do, counted in what it does and not in time: the same question gets the same answer on a busy machine.

The solver is HiGHS (Huangfu & Hall 2018, Mathematical Programming Computation 10, 119). It works the same way each time, and asks
now and then whether to go on; so many of its questions, and so many steps of the simplex method, are taken for one second.
"""

import time
from collections.abc import Callable
from dataclasses import dataclass, field

import highspy
import numpy as np
from scipy import sparse

from widedusk.core.plan.schedule.problem import Bools, Ints
from widedusk.core.sky.time import Floats

Gone = Callable[[], bool]
# What they take, measured on two cores of a small server (benchmarks/whole_night.py).
LOOK_S, MOST_LOOK_S = 6e-6, 0.07  # between two questions, for each number in the matrix of the program, and at most
SIMPLEX_STEP_S = 4.5e-8  # for each column of a program without whole numbers
WHOLE_STEP_S = 6e-4  # of one with them, its cuts and searches counted with it
PROGRAM_S = 0.01  # to set one up
BUSY, BUSY_S = 12, 30.0  # times as long as counted, and at least so long: then the machine is too busy to wait for


class GivenUp(Exception):
    """Nobody waits for the answer any more."""


@dataclass
class Effort:
    """seconds: about what the search takes on an idle machine; gone: whether whoever asked has left. cut_short: whether the clock
    ended it, on a machine too busy to do what was allowed."""

    seconds: float
    gone: Gone = lambda: False
    spent: float = 0.0
    cut_short: bool = False
    begun: float = field(default_factory=time.monotonic)

    @property
    def left(self) -> float:
        if time.monotonic() - self.begun > max(BUSY * self.seconds, BUSY_S):
            self.cut_short = True
            return 0.0
        return max(self.seconds - self.spent, 0.0)

    def of_simplex(self, steps: int, columns: int) -> None:
        self.spent += PROGRAM_S + SIMPLEX_STEP_S * steps * columns


@dataclass(frozen=True)
class Program:
    """Minimise cost · x with low ≤ matrix · x ≤ high and lower ≤ x ≤ upper; whole: which of x are whole numbers."""

    cost: Floats
    matrix: sparse.csc_matrix
    low: Floats
    high: Floats
    lower: Floats
    upper: Floats
    whole: Bools


def best_of(
    program: Program, start: tuple[Ints, Floats], gap: float, effort: Effort, allowed: float
) -> tuple[Floats, float] | None:
    """The best x found and a bound that no x falls below; None where there is none at all.

    start: some whole numbers of a solution that is known, at their places: what is found is no worse. gap: share of the bound that
    is near enough. allowed: seconds of the effort. Raises GivenUp.
    """
    for presolve in ("choose", "off"):  # a few programs are solved only the other way
        solver = _solver(program, gap, presolve)
        if len(start[0]):
            solver.setSolution(len(start[0]), start[0].astype(np.int32), start[1])
        _run(solver, effort, allowed)
        info = solver.getInfo()
        if info.primal_solution_status == highspy.SolutionStatus.kSolutionStatusFeasible:
            bound = info.mip_dual_bound if program.whole.any() else info.objective_function_value
            return np.array(solver.getSolution().col_value), float(bound)
        if solver.getModelStatus() == highspy.HighsModelStatus.kInfeasible or effort.left <= 0.0:
            return None
    return None


def _run(solver: highspy.Highs, effort: Effort, allowed: float) -> None:
    begun, left = effort.spent + PROGRAM_S, False
    ends, a_look = effort.spent + allowed, min(LOOK_S * solver.getNumNz(), MOST_LOOK_S)
    effort.spent = begun

    def look(event: highspy.HighsCallbackEvent) -> None:
        nonlocal left
        effort.spent += a_look
        left = left or effort.gone()
        if left or effort.spent >= ends or effort.left <= 0.0:
            event.interrupt()

    solver.cbMipInterrupt += look
    solver.run()
    if left:
        raise GivenUp
    steps = max(solver.getInfo().simplex_iteration_count, 0)
    effort.spent = max(effort.spent, begun + WHOLE_STEP_S * steps)


def _solver(program: Program, gap: float, presolve: str) -> highspy.Highs:
    matrix = sparse.csc_matrix(program.matrix)
    model = highspy.HighsLp()
    model.num_row_, model.num_col_ = matrix.shape
    model.col_cost_, model.col_lower_, model.col_upper_ = program.cost, program.lower, program.upper
    model.row_lower_, model.row_upper_ = program.low, program.high
    model.a_matrix_.format_ = highspy.MatrixFormat.kColwise
    model.a_matrix_.start_, model.a_matrix_.index_, model.a_matrix_.value_ = matrix.indptr, matrix.indices, matrix.data
    kinds = highspy.HighsVarType.kContinuous, highspy.HighsVarType.kInteger
    model.integrality_ = [kinds[int(one)] for one in program.whole]
    solver = highspy.Highs()  # type: ignore[no-untyped-call]
    options: dict[str, bool | int | float | str] = {"output_flag": False, "threads": 1, "mip_rel_gap": gap, "presolve": presolve}
    for name, value in options.items():
        solver.setOptionValue(name, value)
    solver.passModel(model)
    return solver
