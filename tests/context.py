"""The context of tests that need no evaluator: kernel workers of this test process, started when they are first needed."""

from uhrwerk.core.context import Context
from uhrwerk.core.solids import KernelPool

CONTEXT = Context(KernelPool(limit=60))
