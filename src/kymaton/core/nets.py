"""Small graphs as plain mappings: a node to the nodes that its edges lead to, in the order in which they were named.

A library for graphs takes longer to load than everything else that a start needs, for five short algorithms; these
are held against it by the tests.
"""

import heapq
import itertools
from collections.abc import Hashable, Iterable, Iterator, Mapping
from graphlib import CycleError, TopologicalSorter
from typing import TypeVar

N = TypeVar("N", bound=Hashable)
Net = Mapping[N, Iterable[N]]


def net_of(edges: Iterable[tuple[N, N]], nodes: Iterable[N] = ()) -> dict[N, dict[N, None]]:
    """The net of these edges, with `nodes` first where they are given; an edge named twice counts once."""
    net: dict[N, dict[N, None]] = {node: {} for node in nodes}
    for a, b in edges:
        net.setdefault(a, {})[b] = None
        net.setdefault(b, {})
    return net


def reversed_net(net: Net[N]) -> dict[N, dict[N, None]]:
    """The net with every edge turned round."""
    return net_of(((b, a) for a in net for b in net[a]), net)


def topological(net: Net[N]) -> list[N] | None:
    """The nodes, each after all that lead to it; None where something goes round."""
    try:
        return list(TopologicalSorter(reversed_net(net)).static_order())
    except CycleError:
        return None


def preorder(net: Net[N], start: N) -> list[N]:
    """The nodes that can be reached from `start`, in depth-first order."""
    found: dict[N, None] = {start: None}
    stack = [iter(net[start])]
    while stack:
        for node in stack[-1]:
            if node not in found:
                found[node] = None
                stack.append(iter(net[node]))
                break
        else:
            stack.pop()
    return list(found)


def back_edges(net: Net[N], starts: Iterable[N]) -> Iterator[tuple[N, N]]:
    """The edges that lead back to where a depth-first walk from these nodes has come: without them nothing goes round.

    Tarjan (see `strong_components`), without recursion. Nodes that cannot be reached from the first start are walked
    from the next; a start that no edge touches leads nowhere.
    """
    done: set[N] = set()
    for start in starts:
        if start in done or start not in net:
            continue
        way = {start: None}
        stack = [(start, iter(net[start]))]
        while stack:
            node, ahead = stack[-1]
            for next_ in ahead:
                if next_ in way:
                    yield node, next_
                elif next_ not in done:
                    way[next_] = None
                    stack.append((next_, iter(net[next_])))
                    break
            else:
                stack.pop()
                way.popitem()
                done.add(node)


def connected_components(net: Net[N]) -> list[list[N]]:
    """What hangs together, whichever way the edges point, in the order of the first node of each group."""
    either = net_of((pair for a in net for b in net[a] for pair in ((a, b), (b, a))), net)
    groups: list[list[N]] = []
    seen: set[N] = set()
    for node in net:
        if node not in seen:
            groups.append(preorder(either, node))
            seen.update(groups[-1])
    return groups


def strong_components(net: Net[N]) -> list[list[N]]:
    """Groups of nodes of which each can be reached from each other; a node that is in no loop is a group of its own.

    Tarjan, "Depth-first search and linear graph algorithms", SIAM J. Comput. 1 (1972), without recursion.
    """
    number: dict[N, int] = {}
    lowest: dict[N, int] = {}
    open_: dict[N, None] = {}
    groups: list[list[N]] = []
    for root in net:
        work = [] if root in number else [(root, iter(net[root]))]
        if work:
            number[root] = lowest[root] = len(number)
            open_[root] = None
        while work:
            node, ahead = work[-1]
            for next_ in ahead:
                if next_ not in number:
                    number[next_] = lowest[next_] = len(number)
                    open_[next_] = None
                    work.append((next_, iter(net[next_])))
                    break
                if next_ in open_:
                    lowest[node] = min(lowest[node], number[next_])
            else:
                work.pop()
                if work:
                    lowest[work[-1][0]] = min(lowest[work[-1][0]], lowest[node])
                if lowest[node] == number[node]:
                    group: list[N] = []
                    while not group or group[-1] != node:
                        group.append(open_.popitem()[0])
                    groups.append(group)
    return groups


def elementary_cycles(net: Net[N]) -> Iterator[list[N]]:
    """Every way round that meets no node twice, once each, as the list of its nodes.

    Johnson, "Finding all the elementary circuits of a directed graph", SIAM J. Comput. 4 (1975): the time for each
    cycle is bounded by the size of the net, so the first few hundred of very many come at once.
    """
    for node in net:
        if node in net[node]:
            yield [node]
    rest = [group for group in strong_components(net) if len(group) > 1]
    while rest:
        group = set(rest.pop())
        inside = {a: [b for b in net[a] if b in group and b != a] for a in net if a in group}
        first = next(iter(inside))
        yield from _cycles_through(inside, first)
        without = {a: [b for b in ahead if b != first] for a, ahead in inside.items() if a != first}
        rest += [g for g in strong_components(without) if len(g) > 1]


def _cycles_through(net: Mapping[N, list[N]], first: N) -> Iterator[list[N]]:
    path, blocked = [first], {first}
    waiting: dict[N, set[N]] = {node: set() for node in net}
    closed: set[N] = set()  # nodes on the path from which a way back was found
    stack = [(first, iter(net[first]))]

    def unblock(node: N) -> None:
        free = [node]
        while free:
            one = free.pop()
            if one in blocked:
                blocked.discard(one)
                free += waiting[one]
                waiting[one].clear()

    while stack:
        node, ahead = stack[-1]
        for next_ in ahead:
            if next_ == first:
                yield list(path)
                closed.update(path)
            elif next_ not in blocked:
                path.append(next_)
                blocked.add(next_)
                closed.discard(next_)
                stack.append((next_, iter(net[next_])))
                break
        else:
            stack.pop()
            path.pop()
            if node in closed:
                unblock(node)
            else:
                for next_ in net[node]:
                    waiting[next_].add(node)


def shortest_ways(net: Mapping[N, Mapping[N, int]], start: N) -> dict[N, list[N]]:
    """The shortest way from `start` to every node that can be reached, as its nodes; edges hold their lengths, ≥ 0.

    Dijkstra, "A note on two problems in connexion with graphs", Numer. Math. 1 (1959). Of equal ways the first found.
    """
    ways: dict[N, list[N]] = {start: [start]}
    length = {start: 0}
    done: set[N] = set()
    count = itertools.count()
    fringe = [(0, next(count), start)]
    while fringe:
        so_far, _, node = heapq.heappop(fringe)
        if node in done:
            continue
        done.add(node)
        for next_, step in net.get(node, {}).items():
            if next_ not in length or so_far + step < length[next_]:
                length[next_] = so_far + step
                ways[next_] = [*ways[node], next_]
                heapq.heappush(fringe, (length[next_], next(count), next_))
    return ways
