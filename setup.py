"""Builds the compiled inner loops with the package. Without a compiler the package installs all the same."""

from setuptools import Extension, setup

# No fused multiply-add: results are the same on every machine, to the bit.
FLAGS = ["-O3", "-ffp-contract=off", "-fno-math-errno", "-fvisibility=default"]
KERNEL = Extension("nafas.native._kernel", ["src/nafas/native/kernel.c"], extra_compile_args=FLAGS, optional=True)
setup(ext_modules=[KERNEL])
