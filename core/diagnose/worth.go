package diagnose
