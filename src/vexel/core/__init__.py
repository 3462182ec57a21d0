"""The rules of the job: pure functions and frozen values, nothing of Vexel outside this folder."""
