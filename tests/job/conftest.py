"""The block job, for all tests of jobs."""

from tests.job.block import recipe, store  # noqa: F401 -- fixtures
